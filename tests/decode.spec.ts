import { expect, test } from '@playwright/test';
import { expectAccessible, idOf } from './access';
import { beginTrial, chooseTrial, clipId, ensureVolume, query } from './helpers';

test.beforeEach(async ({ page }) => {
  await ensureVolume(page);
});

test('decode rates: started from the library, on one chart, each with its evidence', async ({ page }) => {
  await page.goto('/media');
  await page.getByLabel('Volume').selectOption({ label: 'Shuttle SSD' });
  await page.getByRole('checkbox', { name: /Choose small\/TW_TEST_0002/ }).check();
  await page.getByRole('button', { name: 'Measure decode rates' }).click();
  await expect(page).toHaveURL(/\/media\/decode$/);
  const compared = page.getByRole('figure', { name: 'Formats compared' });
  await expect(compared.locator('tbody tr')).toHaveCount(1);
  await expect(compared).toContainText(/ms/);
  await compared.getByRole('link', { name: /H\.264/ }).click();
  await expect(page.getByTestId('answer')).toContainText(/^Decodes [\d.]+\sframes\/s on all cores/);
  await expect(page.getByRole('table', { name: 'Cost of a frame by type' }).locator('tbody tr')).toHaveCount(
    3,
  );
  await expect(page.getByRole('figure', { name: 'Cost of a jump' })).toContainText(
    'more for every frame from the key frame',
  );
  await expect(page.getByRole('region', { name: 'Conditions' })).toContainText('pinned to the first core');

  await page.getByRole('link', { name: 'small/TW_TEST_0002.mp4' }).click();
  await page.getByRole('radio', { name: 'Quarter' }).click();
  await page.getByLabel('Streams at most').fill('2');
  await page.getByRole('button', { name: 'Ramp streams' }).click();
  await expect(page.getByTestId('answer')).toContainText(/stream/);
  await expect(page.getByRole('region', { name: 'Streams decoded' })).toContainText('Arithmetic');
});

test('decode support: the matrix fills, shows the silent fallback, and opens its evidence', async ({
  page,
}) => {
  await page.goto('/media/support');
  const table = page.getByRole('table', { name: 'Decode support' });
  await table.getByRole('button', { name: /Test ProRes .* on Neap/ }).click();
  await expect(table.getByRole('row', { name: /^ProRes/ })).toContainText(
    /silent fallback|gain without device frames/,
  );
  await expect(table.getByRole('button', { name: /Test ProRes .* on Spring/ })).toBeVisible(); // unknown cells offer the run
  await table.getByRole('link', { name: /ProRes .* on Neap/ }).click();
  await expect(page.getByTestId('answer')).toContainText('Neap');
  await expect(page.getByRole('region', { name: 'Decode support' }).getByRole('alert')).toContainText(
    /Silent fallback|came from software/,
  );
  await expect(page.getByRole('figure', { name: 'Interval against the limits' })).toBeVisible();
  await expect(
    page.getByRole('table', { name: 'Pairs, one pinned core' }).locator('tbody tr'),
  ).not.toHaveCount(0);
  await page.goto('/media/support');
  // What this machine has and lacks stands below the matrix, each kind of device by its name.
  const [rig] = await query<{ devices: { name: string; usable: boolean }[] }>(
    'select devices from rigs where devices is not null',
  );
  expect(rig!.devices.filter(({ usable }) => usable).map(({ name }) => name)).toEqual(
    expect.arrayContaining(['Neap', 'Spring']),
  );
  const devices = page.getByRole('region', { name: 'Decode devices' });
  for (const { name } of rig!.devices) await expect(devices).toContainText(name);
  await expect(table.getByRole('columnheader')).toHaveCount(
    1 + rig!.devices.filter(({ usable }) => usable).length,
  );
});

test('a clip plays decoded on a device, says which streams it drew, and in software beside it', async ({
  page,
}) => {
  await chooseTrial(page, 'TW_TEST_0002', 'Quarter');
  await page.getByLabel('Decoded by').selectOption({ label: 'Neap (simulated)' });
  await beginTrial(page);
  await expect(page.getByTestId('answer')).toBeVisible();
  await expect(page.getByText('Decoded on Neap (simulated).')).toBeVisible();
  const drew = page.getByRole('table', { name: 'Streams by device' });
  await expect(drew.locator('tbody tr')).toHaveText(/^Neap\s*simulated\s*1\s*1\s*120\s*100\s%\s*120$/);
  await expect(page.getByText(/fell back to software/)).toHaveCount(0);

  // What the device does not take goes to software without a word, and the result says so.
  await chooseTrial(page, 'TW_TEST_0003', 'Quarter');
  await page.getByLabel('Decoded by').selectOption({ label: 'Neap (simulated)' });
  await beginTrial(page);
  await expect(page.getByText(/1 of 1 stream fell back to software/)).toBeVisible();
  await page.getByRole('button', { name: 'Play it in software' }).click();
  await expect(page.getByTestId('answer')).toBeVisible();
  await expect(page.getByText('Decoded on Neap')).toHaveCount(0);

  await page.goto('/trials');
  await page.getByRole('link', { name: 'In software and on every device, side by side' }).click();
  await expect(page.getByLabel('Question')).toHaveValue('device-out-device-in');
  await expect(page.getByRole('checkbox', { name: 'Neap (simulated)' })).toBeChecked();
  await expect(page.getByRole('status').filter({ hasText: 'conditions' })).toContainText(
    /^6 conditions, 18 runs/,
  );
});

test('a trial is cancelled by a key pressed as soon as its page has its address', async ({ page }) => {
  await page.goto(`/media/clips/${await clipId('small/TW_TEST_0001.mov')}`);
  await page.getByRole('button', { name: 'Measure decode rate' }).click();
  await page.waitForURL(/\/media\/decode\/[0-9a-f]+$/);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('heading', { name: 'This trial was cancelled' })).toBeVisible();
});

test('its pages can be read and used by all, in both themes', async ({ page }) => {
  await expectAccessible(page, [
    '/media/decode',
    '/media/support',
    ...(await Promise.all(
      ['decode-rate', 'decode-support', 'decode-streams'].map(
        async (kind) => `/media/decode/${await idOf(`trials where kind = '${kind}' and status = 'done'`)}`,
      ),
    )),
  ]);
});
