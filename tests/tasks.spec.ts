import { existsSync } from 'node:fs';
import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { expectAccessible } from './access';
import { addMediaVolume, clipId, ensureVolume, query } from './helpers';

test.beforeEach(async ({ page }) => {
  await ensureVolume(page);
});

test('a clip is exported: chosen as a delivery, changed, proved, and told what held it back', async ({
  page,
}) => {
  await addMediaVolume(page, 'Media eleven');
  await page.goto(`/media/clips/${await clipId('TW_TEST_0002.mp4')}`);
  await page.getByRole('link', { name: 'Export' }).click();
  const form = page.getByRole('form', { name: 'Export' });
  await expect(form.getByLabel('Clip or timeline')).toContainText('TW_TEST_0002.mp4');
  await form.getByLabel('Delivery').selectOption('Master');
  await expect(form.getByLabel('Class')).toHaveValue('3');
  await expect(form).toContainText('Master: kept, and source of all later copies.');

  await form.getByLabel('Delivery').selectOption('Review copy');
  await form.getByLabel('CRF, 0 best').fill('90');
  await expect(form.getByLabel('Delivery')).toHaveValue('');
  await form.getByLabel('To volume').selectOption({ label: 'Media eleven' });
  await form.getByRole('button', { name: 'Export and measure' }).click();
  await expect(form.getByRole('alert')).toContainText('The CRF of H.264 lies from 0 (best) to 51.');
  await form.getByLabel('CRF, 0 best').fill('28');
  await form.getByText('Further conditions').click();
  await form.getByLabel('Keep the result').check();
  await form.getByLabel('Measure the loss').check();
  await form.getByRole('button', { name: 'Export and measure' }).click();
  await expect(page.getByTestId('answer')).toContainText(/Exported 4\.8.s of media in .* times its length/, {
    timeout: 60_000,
  });
  await expect(page.getByRole('region', { name: 'Proof' })).toContainText(
    'frame i is frame i for 120 of 120',
  );
  await expect(page.getByRole('region', { name: 'Proof' })).toContainText('SSIM 0.');
  const table = page.getByRole('table', { name: 'What held it back' });
  await expect(table.getByRole('row')).toHaveCount(6);
  await expect(table).toContainText('of the time');
  await expect(page.getByText(/^exports\/TW_TEST_0002_h264/)).toBeVisible();
  const result = new URL(page.url()).pathname;

  // It stands among the tasks, and can be asked for again as it was.
  const again = page.getByRole('button', { name: 'Repeat', exact: true });
  await again.click();
  await expect(page.getByTestId('answer')).toBeVisible({ timeout: 60_000 });
  await page.goto('/trials/tasks');
  await expect(page.getByRole('table', { name: 'Tasks' }).getByRole('row')).toHaveCount(3);
  await expectAccessible(page, ['/trials/tasks', result]);
});

test('an export is watched, and cancelled: nothing of it stays', async ({ page }) => {
  await addMediaVolume(page, 'Media twelve');
  await page.goto(`/trials/tasks?clip=${await clipId('small/TW_TEST_0001.mov')}`);
  const form = page.getByRole('form', { name: 'Export' });
  await form.getByLabel('Codec').selectOption('HEVC');
  await form.getByLabel('Encoder speed').selectOption('thorough');
  await form.getByLabel('CRF, 0 best').fill('0');
  await form.getByLabel('To volume').selectOption({ label: 'Media twelve' });
  await form.getByRole('button', { name: 'Export and measure' }).click();
  await expect(page.getByRole('heading', { name: /^\d+ of 240 frames written$/ })).toBeVisible({
    timeout: 60_000,
  });
  await expect(page.getByAltText(/Frame \d+ as encoded/)).toBeVisible();
  await expect(page.getByRole('img', { name: 'Frames a second over time' })).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByText(/Cancelled\. Stopped at \d+ %, frame \d+, /)).toBeVisible();
  const [volume] = await query<{ path: string }>("select path from volumes where name = 'Media twelve'");
  expect((await readdir(volume!.path)).filter((name) => name.startsWith('.navvy-scratch'))).toEqual([]);
  expect(existsSync(join(volume!.path, 'exports'))).toBe(false);
});
