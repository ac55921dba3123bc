import { expect, test } from '@playwright/test';
import { expectAccessible, expectNoFaults } from './access';
import { beginTrial, chooseTrial, ensureVolume, media, query, savedSlots, startTrial } from './helpers';

test('an empty Navvy leads to storage, keeps what was typed when refused, and scans a volume', async ({
  page,
}) => {
  await page.goto('/');
  await expect(page).toHaveURL(/\/storage$/);
  await expect(page.getByRole('heading', { name: 'No volume yet' })).toBeVisible();
  await page.getByLabel('Name').fill('Shuttle SSD');
  await page.getByLabel('Folder on this host').fill('/etc');
  await page.getByRole('button', { name: 'Add and scan' }).click();
  await expect(
    page.getByRole('alert').filter({ hasText: '/etc lies outside the folders that Navvy may use' }),
  ).toBeVisible();
  await page.getByLabel('Folder on this host').fill(`${media}/nothing`);
  await page.getByRole('button', { name: 'Add and scan' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'nothing is not there' })).toBeVisible();
  await expect(page.getByLabel('Name')).toHaveValue('Shuttle SSD');
  await ensureVolume(page);
  await page.getByRole('button', { name: 'Add a volume' }).click();
  await page.getByLabel('Name').fill('Twice');
  await page.getByLabel('Folder on this host').fill(media);
  await page.getByRole('button', { name: 'Add and scan' }).click();
  await expect(
    page.getByRole('alert').filter({ hasText: 'is the volume "Shuttle SSD" already' }),
  ).toBeVisible();
});

test('the media table says what each clip is, and filters, sorts and exports', async ({ page }) => {
  await page.goto('/media');
  const table = page.getByRole('table', { name: 'Clips' });
  await expect(table.getByRole('row')).toHaveCount(4);
  const tenBit = table.getByRole('row').filter({ hasText: 'TW_TEST_0003.mov' });
  for (const text of ['ProRes', 'Standard', '10-bit', '4:2:2', '480x270', 'Intra'])
    await expect(tenBit).toContainText(text);
  await expect(table.getByRole('row').filter({ hasText: 'TW_TEST_0002.mp4' })).toContainText('GOP 24, B');
  await page.getByLabel('Filter Clips').fill('h.264');
  await expect(table.getByRole('row')).toHaveCount(2);
  await page.getByLabel('Filter Clips').fill('nothing like this');
  await expect(page.getByText('No clip matches.')).toBeVisible();
  await page.getByLabel('Filter Clips').fill('');
  await table.getByRole('button', { name: 'Frames' }).click();
  await expect(table.getByRole('columnheader', { name: 'Frames' })).toHaveAttribute('aria-sort', 'ascending');
  await table
    .getByRole('row')
    .filter({ hasText: 'TW_TEST_0002.mp4' })
    .getByRole('link', { name: /Play/ })
    .click();
  await expect(page.getByRole('combobox', { name: 'Clip' })).toContainText('TW_TEST_0002.mp4');
  await page.goBack();
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'CSV of all' }).click();
  expect((await download).suggestedFilename()).toBe('navvy-clips.csv');
});

test('a clip is played, watched live, and its result read by mouse and keyboard', async ({ page }) => {
  const id = await startTrial(page, 'TW_TEST_0001');
  await expect(page.getByRole('heading', { name: /of 240 slots played/ })).toBeVisible();
  await expect(page.getByAltText(/Frame \d+ as presented/)).toBeVisible();
  await expect(page.getByText(/left/).first()).toBeVisible();

  // Leaving does not stop it; coming back finds it.
  await page.getByRole('link', { name: 'Media' }).click();
  await expect(page.getByRole('heading', { name: 'What each clip is' })).toBeVisible();
  await page.getByLabel('Conditions').getByRole('link', { name: 'TW_TEST_0001.mov' }).click();
  await expect(page.getByTestId('answer')).toContainText(/240 slots/);
  expect(await savedSlots(id)).toEqual({ slots: 240, whole: true });

  await expect(page.getByText(/^Cold: |^Warm: /)).toBeVisible();
  await expect(page.getByText('yes, by the frame number in the picture')).toBeVisible();
  const readout = page.getByTestId('readout');
  await page.keyboard.press('Home');
  await expect(readout).toContainText('01:00:00:00');
  await page.keyboard.press('ArrowRight');
  await expect(readout).toContainText('slot 1');
  await page.keyboard.press('End');
  await expect(readout).toContainText('01:00:09:23');
  const ribbon = page.getByRole('slider', { name: 'Ribbon of slots' });
  const box = (await ribbon.boundingBox())!;
  await page.mouse.click(box.x + box.width / 2, box.y + 20);
  await expect(readout).toContainText('slot 120');

  const csv = await page.request.get(`/api/trials/${id}/csv`);
  expect((await csv.text()).trim().split('\n')).toHaveLength(241);
});

test('the ribbon is zoomed, panned and hovered, and says the slot under the pointer', async ({ page }) => {
  const [trial] = await query<{ id: string }>(
    "select id from trials where status = 'done' and kind = 'playback' and (progress->>'slotCount')::int = 240 limit 1",
  );
  await page.goto(`/trials/${trial!.id}`);
  const ribbon = page.getByRole('slider', { name: 'Ribbon of slots' });
  const readout = page.getByTestId('readout');
  await expect(readout).toContainText('slot');
  const box = (await ribbon.boundingBox())!;
  const hover = async (share: number) => {
    await page.mouse.move(box.x + box.width * share, box.y + 30);
    return Number(/slot (\d+)/.exec((await readout.textContent()) ?? '')?.[1]);
  };
  expect(await hover(0.25)).toBe(60);
  expect(await hover(0.75)).toBe(180);
  for (let step = 0; step < 3; step++) await page.mouse.wheel(0, -200); // closer, round slot 180
  await expect.poll(() => hover(0.99)).toBeLessThan(200);
  expect(await hover(0.75)).toBe(180);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.25, box.y + 30);
  await page.mouse.up();
  await expect.poll(() => hover(0.25)).toBe(180); // dragged along
  await page.getByRole('button', { name: 'All', exact: true }).click();
  await expect.poll(() => hover(0.5)).toBe(120);
  for (const name of ['p50', 'p95', 'p99'])
    await expect(page.getByRole('region', { name: 'Figures' })).toContainText(name);
});

test('a trial that shows every frame gives its speed, and is repeated from its result', async ({ page }) => {
  await chooseTrial(page, 'TW_TEST_0003');
  await page.getByText('Further conditions').click();
  await page.getByRole('radio', { name: 'Show every frame' }).click();
  await page.getByRole('radio', { name: 'Warm, on purpose' }).click();
  await page.getByLabel('Decoder threads').fill('1');
  await page.getByRole('button', { name: 'Play and measure' }).click();
  await expect(page.getByTestId('answer')).toContainText(
    /Every frame was shown at [\d.]+ frames per second: [\d.]+x the clip's 24/,
  );
  await expect(page.getByText(/^Warm: reads may have come from memory/)).toBeVisible();
  await expect(page.getByText('prores, 1 thread')).toBeVisible();
  const first = page.url();
  await page.getByRole('button', { name: 'Repeat' }).click();
  await expect(page).not.toHaveURL(first);
  await expect(page.getByTestId('answer')).toContainText('Every frame was shown');
  await expect(page.getByText('every frame, warm on purpose')).toBeVisible();
  await page.goto('/trials');
  const rows = page.getByRole('table', { name: 'Trials' }).getByRole('row');
  await expect(
    rows.filter({ hasText: 'warm, every frame' }).filter({ hasText: 'Every frame was shown at' }),
  ).toHaveCount(2);
});

interface Charged {
  readonly slot: number;
  readonly cause: string;
}

test('the self-check injects faults and says whether the rig can be trusted', async ({ page }) => {
  await page.goto('/rig');
  await page.getByRole('button', { name: /Run the self-check/ }).click();
  const region = page.getByRole('region', { name: 'Self-check' });
  await expect(region).toContainText(
    /of 12 injected drops were found in the right slot with the right cause/,
  );
  await expect(region).toContainText(/The timer woke .* at p99/);
  // A held slot cannot be shown, on whatever machine; only what was given up before is not held. Causes are as sure as the rig is quiet: what is said is what was found.
  const [row] = await query<{ self_check: { expected: Charged[]; found: Charged[] } }>(
    "select summary->'selfCheck' as self_check from trials where kind = 'self-check' and status = 'done' order by created_at desc limit 1",
  );
  const { expected, found: drops } = row!.self_check;
  expect(
    expected.filter(({ slot }) => drops.some((drop) => drop.slot === slot)).length,
  ).toBeGreaterThanOrEqual(6);
  const right = expected.filter(({ slot, cause }) =>
    drops.some((drop) => drop.slot === slot && drop.cause === cause),
  ).length;
  await expect(region).toContainText(`${right} of 12 injected drops`);
  await page.getByRole('link', { name: 'see its slots and conditions' }).click();
  await expect(page.getByRole('table', { name: 'Drops by cause' })).toContainText('read');
  // From drop to drop: each press goes to the next one that was found, in order.
  const readout = page.getByTestId('readout');
  await expect(readout).toContainText('slot');
  await page.keyboard.press('Home');
  await expect(readout).toContainText('slot 0');
  for (const { slot } of drops.filter((drop) => drop.slot > 0).slice(0, 5)) {
    await page.keyboard.press('n');
    await expect(readout).toContainText(`slot ${slot}`);
  }
  await page.keyboard.press('p');
  await expect(readout).toContainText('dropped');
});

test('a trial is repeated at another scale, cancelled, and removed', async ({ page }) => {
  const id = await startTrial(page, 'TW_TEST_0001', 'Half');
  await expect(page.getByRole('heading', { name: /slots played/ })).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByRole('heading', { name: 'This trial was cancelled' })).toBeVisible();
  await expect(page.getByTestId('answer')).toContainText('Up to where it ended');
  const { slots, whole } = await savedSlots(id);
  expect(whole).toBe(true);
  expect(slots).toBeLessThan(240);
  await page.getByRole('button', { name: 'Remove this trial' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page).toHaveURL(/\/trials$/);
  await page.goto(`/trials/${id}`);
  await expect(page.getByText('There is nothing at this address')).toBeVisible();
});

test('two trials wait for each other, and a waiting one can be taken out', async ({ page, context }) => {
  // Both are asked for before either is begun: on a slow machine the first would have ended while the second was filled in.
  const second = await context.newPage();
  await chooseTrial(second, 'TW_TEST_0002');
  await startTrial(page, 'TW_TEST_0001', 'Quarter');
  await beginTrial(second);
  await expect(second.getByRole('heading', { name: 'Waiting for its turn' })).toBeVisible();
  await second.getByRole('button', { name: 'Cancel' }).click();
  await expect(second.getByText('Cancelled before it began.')).toBeVisible();
  await expect(page.getByTestId('answer')).toBeVisible();
});

test('a running trial can be read and used by all', async ({ page }) => {
  await startTrial(page, 'TW_TEST_0001');
  await expect(page.getByAltText(/Frame \d+ as presented/)).toBeVisible();
  await expectNoFaults(page, 'a running trial');
  await page.keyboard.press('Escape'); // cancels
  await expect(page.getByRole('heading', { name: 'This trial was cancelled' })).toBeVisible();
});

test('its pages can be read and used by all, in both themes', async ({ page }) => {
  const [mostDrops] = await query<{ id: string }>(
    "select id from trials where status = 'done' and kind = 'playback' order by (summary->>'dropped')::int desc limit 1",
  );
  await expectAccessible(page, [
    `/trials/${mostDrops!.id}`,
    '/rig',
    '/storage',
    '/media',
    '/trials',
    '/nowhere',
  ]);
});
