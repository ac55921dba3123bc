import { expect, test, type Page } from '@playwright/test';
import { expectAccessible, idOf } from './access';
import { buildTestLoad, chooseFrom, ensureVolume, query } from './helpers';

test.beforeEach(async ({ page }) => {
  await ensureVolume(page);
});

/** The saved document of the newest timeline of a name. */
async function documentOf(name: string) {
  const [row] = await query<{
    id: string;
    document: {
      tracks: { items: { start: number; length: number; name: string; effects: { kind: string }[] }[] }[];
      markers: { at: number }[];
    };
  }>('select id, document from timelines where name = $1 order by created_at desc limit 1', [name]);
  return row!;
}

const shape = async (name: string) =>
  (await documentOf(name)).document.tracks.map(({ items }) =>
    items.map(({ start, length }) => [start, length]),
  );
const saved = (page: Page) => expect(page.getByText('Saved', { exact: true })).toBeVisible();

async function newTimeline(page: Page, name: string): Promise<void> {
  await page.goto('/timelines');
  await page.getByRole('form', { name: 'New timeline' }).getByLabel('Name').fill(name);
  await page.getByRole('button', { name: 'Begin' }).click();
  await page.waitForURL(/\/timelines\/[0-9a-f]{10}$/);
}

async function putIn(page: Page, clip: string): Promise<void> {
  const box = page.getByRole('checkbox', { name: new RegExp(`Choose .*${clip}`) }).first();
  await box.check();
  await page.getByRole('button', { name: 'Insert at the playhead' }).click();
  await box.uncheck();
  await page.getByRole('application', { name: /^Timeline/ }).focus();
}

test('a timeline is cut by keyboard, undone, worked on, and is there again after loading', async ({
  page,
}) => {
  await newTimeline(page, 'Cut by keys');
  await putIn(page, 'TW_TEST_0001');
  await putIn(page, 'TW_TEST_0003');
  await saved(page);
  await expect
    .poll(() => shape('Cut by keys'))
    .toEqual([
      [
        [0, 240],
        [240, 48],
      ],
    ]);

  // To slot 100 by its number, split there, remove the second half and close up; then take that back.
  await page.keyboard.press('Escape');
  await page.keyboard.press('t');
  await page.getByLabel('Timecode of the playhead').fill('100');
  await page.keyboard.press('Enter');
  await page.keyboard.press('s');
  await expect
    .poll(() => shape('Cut by keys'))
    .toEqual([
      [
        [0, 100],
        [100, 140],
        [240, 48],
      ],
    ]);
  await page.keyboard.press('Shift+Delete');
  await expect
    .poll(() => shape('Cut by keys'))
    .toEqual([
      [
        [0, 100],
        [100, 48],
      ],
    ]);
  await page.keyboard.press('Control+z');
  await expect
    .poll(() => shape('Cut by keys'))
    .toEqual([
      [
        [0, 100],
        [100, 140],
        [240, 48],
      ],
    ]);
  await page.keyboard.press('Control+y');

  // A cross-fade, a marker, another track with the second item on it.
  await page.keyboard.press('x');
  await page.keyboard.press('m');
  await page.keyboard.press('Shift+A');
  await page.keyboard.press('Shift+ArrowUp');
  await expect.poll(async () => (await shape('Cut by keys')).map((items) => items.length)).toEqual([1, 1]);
  await expect.poll(async () => (await documentOf('Cut by keys')).document.markers.length).toBe(1);

  await page.keyboard.press('Home');
  await page.keyboard.press('PageDown');
  await page.keyboard.press('Escape');
  await page.keyboard.press('n');
  const panel = page.getByRole('region', { name: 'Chosen item' });
  await panel.getByLabel('Add an effect').selectOption({ label: 'blur' });
  await panel.getByLabel('Add an effect').selectOption({ label: 'LUT' });
  await panel.getByLabel('Load a .cube file').setInputFiles({
    name: 'wrong.cube',
    mimeType: 'text/plain',
    buffer: Buffer.from('LUT_1D_SIZE 2\n0 0 0\n1 1\n'),
  });
  await expect(panel.getByRole('alert')).toContainText('wrong.cube cannot be read. Line 3');
  await panel.getByLabel('Load a .cube file').setInputFiles({
    name: 'dusk.cube',
    mimeType: 'text/plain',
    buffer: Buffer.from('LUT_1D_SIZE 2\n0 0 0\n1 0.9 0.8\n'),
  });
  await expect(panel.getByLabel('Look', { exact: true })).toContainText('dusk (1D, 2)');
  await panel.getByLabel('Speed, %').fill('50');
  await page.keyboard.press('Enter');
  await saved(page);
  await page.reload();
  await expect(page.getByLabel('Name of the timeline')).toHaveValue('Cut by keys');
  const { document } = await documentOf('Cut by keys');
  expect(document.tracks[0]!.items[0]!.effects.map(({ kind }) => kind)).toEqual(['blur', 'lut']);
});

test('clips are dragged in and items moved with the mouse; the viewer shows the slot and plays', async ({
  page,
}) => {
  await newTimeline(page, 'By mouse');
  const tracks = page.getByRole('application', { name: /^Timeline/ });
  await page
    .getByRole('region', { name: 'Clips' })
    .getByRole('listitem')
    .filter({ hasText: 'TW_TEST_0001.mov' })
    .first()
    .dragTo(tracks, { targetPosition: { x: 3, y: 45 } });
  await expect.poll(() => shape('By mouse')).toEqual([[[0, 240]]]);
  const picture = page.getByRole('img', { name: /^Slot \d+$/ });
  await page.keyboard.press('Home');
  await expect(picture).toHaveAttribute('data-slot', '0');
  await page.keyboard.press('ArrowRight');
  await expect(picture).toHaveAttribute('data-slot', '1');
  await expect(page.getByTestId('took')).toContainText('This slot took');
  await expect(page.getByTestId('took')).toContainText('through the cache');
  // Cold it reads past the cache, and tells how long each jump took.
  await page.getByLabel('Whether the viewer reads through').selectOption('cold');
  await expect(page.getByTestId('took')).toContainText(/cold: read .* from Shuttle SSD.*past the cache/s);
  await page.keyboard.press('ArrowRight');
  await expect(page.getByTestId('jumps')).toContainText(/Last jump .*ms, from key to picture\. Of 1:/);
  await page.getByLabel('Whether the viewer reads through').selectOption('warm');
  await expect(page.getByTestId('jumps')).toHaveCount(0);
  await page.keyboard.press('l');
  await expect(page.getByTestId('play-state')).toContainText(/1x.* dropped/);
  await expect.poll(async () => Number(await picture.getAttribute('data-slot'))).toBeGreaterThan(8);
  await page.keyboard.press('k');
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await page.keyboard.press('End');
  await page.keyboard.press('j');
  await expect(page.getByTestId('play-state')).toContainText('1x back');
  await page.keyboard.press(' ');

  // Dragging an item to the right leaves a gap before it; its neighbour is trimmed by its edge.
  await page.keyboard.press('Escape');
  const box = (await tracks.boundingBox())!;
  await page.mouse.move(box.x + 60, box.y + 45);
  await page.mouse.down();
  await page.mouse.move(box.x + 90, box.y + 45, { steps: 4 });
  await page.mouse.move(box.x + 260, box.y + 45, { steps: 8 });
  await page.mouse.up();
  await expect.poll(async () => (await shape('By mouse'))[0]![0]![0]).toBeGreaterThan(20);
  await page.keyboard.press('Control+z');
  await expect.poll(() => shape('By mouse')).toEqual([[[0, 240]]]);

  // The playhead's way is recorded and kept as a gesture.
  await page.getByRole('button', { name: 'Record the playhead for a scrub trial' }).click();
  await page.mouse.move(box.x + 30, box.y + 10);
  await page.mouse.down();
  await page.mouse.move(box.x + 200, box.y + 10, { steps: 12 });
  await page.mouse.up();
  await page.getByRole('button', { name: 'End the recording of the playhead' }).click();
  const keep = page.getByRole('form', { name: 'Save the recorded gesture' });
  await keep.getByLabel(/Name of the gesture/).fill('over the wall');
  await keep.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('The gesture is saved')).toBeVisible();
  await page.goto('/timelines/tests');
  await expect(page.getByLabel('recorded: over the wall')).toBeVisible();
});

test('a timeline is played and measured: the answer, the timeline under its ribbon, and runs over each other', async ({
  page,
}) => {
  await buildTestLoad(page, 'TW_TEST_0001', 2);
  const address = page.url();
  const form = page.getByRole('form', { name: 'Play and measure this timeline' });
  await form.getByRole('button', { name: 'Forecast' }).click();
  await expect(page.getByRole('status', { name: 'Forecast' })).toContainText(
    /Still to be measured|slots would/,
  );
  for (const [scale, speed] of [
    ['Quarter', '1'],
    ['Half', '-2'],
  ] as const) {
    await page.goto(address);
    await form.getByRole('radio', { name: scale }).click();
    await form.getByLabel('Speed').selectOption(speed);
    await form.getByRole('button', { name: 'Play and measure' }).click();
    await page.waitForURL(/\/trials\/[0-9a-f]+$/);
    await expect(page.getByTestId('answer')).toContainText(speed === '1' ? '48 slots' : '24 slots');
  }
  await expect(page.getByRole('img', { name: 'The timeline that was played' })).toBeVisible();
  await expect(page.getByTestId('readout')).toContainText(/TW_TEST_0001\.mov frame \d+/);
  await expect(page.getByRole('region', { name: 'Conditions' })).toContainText(
    /TW_TEST_0001\.mov \((original|rendition), Motion JPEG/,
  ); // other tests make its footage grow
  await page.goto(`${address}/runs`);
  await expect(page.getByRole('heading', { name: '2 runs of version 1, one above the other' })).toBeVisible();
  await expect(page.getByRole('region', { name: 'Runs over the timeline' })).toContainText(
    'half scale, 2x backwards, originals',
  );
});

test('interchange files come in with their media linked, and go out with what they cannot carry', async ({
  page,
}) => {
  await page.goto('/timelines');
  await page.getByRole('radio', { name: 'An interchange file' }).click();
  const file = page.getByLabel('Interchange file');
  await file.setInputFiles({
    name: 'broken.edl',
    mimeType: 'text/plain',
    buffer: Buffer.from('TITLE: X\n001  A V C 01:00:00:00\n'),
  });
  await expect(page.getByRole('region', { name: 'New timeline' }).getByRole('alert')).toContainText(
    'broken.edl cannot be read. Line 2',
  );
  const list =
    'TITLE: HARBOUR WALL\nFCM: NON-DROP FRAME\n\n001  WALL0001 V     C        01:00:00:00 01:00:02:00 01:00:00:00 01:00:02:00\n* FROM CLIP NAME: TW_TEST_0001.mov\n002  NOBODY   V     C        05:00:00:00 05:00:02:00 01:00:02:00 01:00:04:00\n* FROM CLIP NAME: TW_NOBODY_0001.mov\n003  NOBODY   A     C        05:00:00:00 05:00:02:00 01:00:02:00 01:00:04:00\n';
  await file.setInputFiles({ name: 'harbour.edl', mimeType: 'text/plain', buffer: Buffer.from(list) });
  // What would be lost and what matches is said before anything is stored.
  await expect(page.getByText('Nothing is stored yet.')).toBeVisible();
  const matched = page.getByRole('table', { name: 'Matched media' });
  await expect(matched.getByRole('row', { name: 'TW_TEST_0001.mov' })).toContainText('name and timecode');
  await expect(page.getByText('1 medium has no match.')).toBeVisible();
  await expect(page.getByText('event 003 is for A, not for the picture')).toBeVisible();
  expect(await query("select id from timelines where name = 'HARBOUR WALL'")).toEqual([]);
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await page.getByRole('link', { name: 'Open it' }).click();
  await expect(page.getByLabel('Name of the timeline')).toHaveValue('HARBOUR WALL');
  await expect(page.getByText('48 slots').or(page.getByText('96 slots'))).toBeVisible();
  await page.getByText('Versions, missing media, export').click();
  await page.getByRole('button', { name: 'Look for missing media' }).click();
  await expect(page.getByRole('region', { name: 'Media', exact: true })).toContainText(
    '1 medium has no match.',
  );
  await page.getByRole('combobox', { name: 'TW_NOBODY_0001.mov is' }).click();
  const clips = page.getByRole('dialog', { name: 'TW_NOBODY_0001.mov is' });
  await clips.getByPlaceholder('Type to find').fill('TW_TEST_0002');
  await clips.getByRole('option').filter({ hasText: 'TW_TEST_0002' }).first().click();
  await expect(page.getByText('All 2 media are linked')).toBeVisible();
  await page.getByLabel('Name for the current state').fill('as it came');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('region', { name: 'Versions' })).toContainText('as it came');
  await page.getByRole('application', { name: /^Timeline/ }).focus();
  await page.keyboard.press('Shift+W');
  await saved(page);
  const out = page.getByRole('region', { name: 'Export' });
  await out.getByLabel('Form').selectOption('edl');
  await expect(out.getByRole('status')).toContainText('1 other track');
  const download = page.waitForEvent('download');
  await out.getByRole('link', { name: 'Save the file' }).click();
  expect((await download).suggestedFilename()).toBe('HARBOUR_WALL.edl');
});

test('scrub trials are laid over each other, and a ramp finds its edge', async ({ page }) => {
  await page.goto('/timelines/tests');
  const form = page.getByRole('form', { name: 'Scrub trial' });
  await chooseFrom(form, 'Clip or timeline', 'small/TW_TEST_0002');
  await form.getByLabel('jumps to random places').check();
  await form.getByRole('radio', { name: 'Half' }).click();
  await form.getByRole('button', { name: 'Scrub and measure' }).click();
  const rows = page.getByRole('table', { name: 'Scrub trials and ramps' }).locator('tbody tr');
  await expect(rows.filter({ hasText: 'was on screen after' })).toHaveCount(2);
  const scrubs = rows.filter({ hasText: 'was on screen after' });
  const heights = async () =>
    Promise.all((await scrubs.all()).map(async (row) => (await row.boundingBox())?.height));
  const before = await heights();
  // A row that grew when it is clicked would move the next one away from under the pointer.
  for (const row of await scrubs.all()) {
    await row.getByRole('checkbox').check();
    expect(await heights()).toEqual(before);
  }
  await page.getByRole('button', { name: 'Compare 2 scrub trials' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('They differ in their gesture');
  await page.getByRole('link', { name: 'jumps to random places, half scale' }).click();
  await expect(page.getByTestId('answer')).toContainText('A position was on screen after');
  await expect(page.getByRole('img', { name: /Position of the playhead/ })).toBeVisible();

  await page.goto('/timelines/tests');
  await page.getByRole('radio', { name: 'Load until it drops' }).click();
  const ramp = page.getByRole('form', { name: 'Load ramp' });
  await chooseFrom(ramp, 'Clip', 'TW_TEST_0001');
  await ramp.getByLabel('At most').fill('99');
  await ramp.getByRole('button', { name: 'Find the edge' }).click();
  await expect(ramp.getByRole('alert')).toContainText('At most 64');
  await ramp.getByLabel('At most').fill('2');
  await ramp.getByLabel('Play each, s').fill('1');
  for (const scale of ['Full', 'Half']) await ramp.getByLabel(scale).uncheck();
  await ramp.getByRole('button', { name: 'Find the edge' }).click();
  await expect(page.getByTestId('answer')).toContainText('Quarter scale');
  await expect(page.getByRole('table', { name: 'Levels played' })).toContainText('1 stream');

  await page.goto('/timelines/tests');
  await page.getByRole('radio', { name: 'What effects cost' }).click();
  await page.getByRole('button', { name: 'Measure every effect' }).click();
  await expect(page.getByTestId('answer')).toContainText('the dearest effect is');
});

test('its pages can be read and used by all, in both themes', async ({ page }) => {
  await expectAccessible(page, [
    '/timelines',
    '/timelines/tests',
    `/timelines/${await idOf("timelines where name = 'HARBOUR WALL'")}`,
    `/timelines/${await idOf("timelines where name like '2 streams of%'")}/runs`,
    ...(await Promise.all(
      ['scrub', 'ramp', 'calibration'].map(
        async (kind) => `/timelines/tests/${await idOf(`trials where kind = '${kind}' and status = 'done'`)}`,
      ),
    )),
  ]);
});
