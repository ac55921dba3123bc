import { copyFile, mkdir, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { ensureVolume, media, query, testFolder } from './helpers';

const fileOf = (name: string) => join(media, 'small', name);

/** A real volume of its own with two whole clips, a damaged one and one of no known kind, scanned through the interface. */
async function addMediaVolume(page: Page, name: string): Promise<string> {
  const folder = await testFolder('media');
  await mkdir(join(folder, 'day 1'));
  await copyFile(fileOf('TW_TEST_0001.mov'), join(folder, 'day 1', 'TW_LONG_NAME_OF_A_CLIP_THAT_WAS_NAMED_BY_SOMEBODY_WITH_MUCH_TIME_0001.mov'));
  await copyFile(fileOf('TW_TEST_0002.mp4'), join(folder, 'TW_TEST_0002.mp4'));
  await writeFile(join(folder, 'broken.mov'), 'no media at all');
  await writeFile(join(folder, 'A001.raw9'), Buffer.alloc(1_100_000, 3));
  await page.goto('/storage');
  await page.getByRole('button', { name: 'Add a volume' }).click();
  await page.getByLabel('Name', { exact: true }).fill(name);
  await page.getByLabel('Folder on this host').fill(folder);
  await page.getByRole('radio', { name: 'Internal' }).click();
  await page.getByRole('button', { name: 'Add and scan' }).click();
  await expect(page.getByRole('article', { name }).getByRole('link', { name: '4 clips' })).toBeVisible();
  return folder;
}

const clipId = async (path: string) => (await query<{ id: string }>('select id from clips where path = $1 order by scanned_at desc limit 1', [path]))[0]!.id;
const rows = (page: Page) => page.getByRole('table', { name: 'Clips', exact: true }).locator('tbody tr');

test.beforeEach(async ({ page }) => { await ensureVolume(page); });

test('the library: what each clip is, what cannot be decoded, chosen and grouped by hand', async ({ page }) => {
  await addMediaVolume(page, 'Media one');
  await page.goto('/media');
  await page.getByLabel('Volume').selectOption({ label: 'Media one' });
  await expect(rows(page)).toHaveCount(4);
  await page.getByRole('button', { name: /cannot be decoded/ }).click();
  await expect(rows(page)).toHaveCount(2);
  await expect(rows(page).filter({ hasText: 'A001.raw9' })).toContainText('could not be opened as media');
  await page.getByLabel('State').selectOption({ label: 'Ready' });
  await expect(rows(page)).toHaveCount(2);

  await page.getByRole('checkbox', { name: 'Choose all Clips' }).check();
  const actions = page.getByRole('group', { name: 'Actions for Clips' });
  await expect(actions).toContainText('2 chosen');
  await actions.getByRole('button', { name: 'Group as one footage' }).click();
  await expect(rows(page).first()).toContainText(/of [2-9]/);
  await expect(actions).toBeHidden();

  await page.getByRole('link', { name: /^TW_TEST_0002\.mp4/ }).click();
  await expect(page.getByRole('region', { name: 'Renditions' })).toContainText('grouped by hand');
  await page.getByRole('button', { name: 'Take this clip out' }).click();
  await expect(page.getByRole('region', { name: 'Renditions' })).toContainText('this clip only');
  await page.getByRole('button', { name: 'Group automatically' }).click();
  await expect(page.getByRole('region', { name: 'Renditions' })).toContainText(/\d+ clips/); // with its copy on the other volume
});

test('a clip’s page: the answer, warnings, pictures, and its frames by keyboard', async ({ page }) => {
  const id = await clipId('small/TW_TEST_0002.mp4');
  await page.goto(`/media/clips/${id}`);
  await expect(page.getByTestId('answer')).toContainText('H.264 Main 8-bit 4:2:0, 480x270, 25 per second: Long-GOP, key every 24');
  await expect(page.getByRole('img', { name: '12 pictures over the clip' })).toBeVisible({ timeout: 30_000 });
  const chart = page.getByRole('slider', { name: 'Frames of the clip' });
  await chart.focus();
  await expect(page.getByTestId('frame-readout')).toContainText('Frame 0, 02:00:00:00: I, key');
  await page.keyboard.press('Shift+ArrowRight');
  await expect(page.getByTestId('frame-readout')).toContainText('Frame 24, 02:00:00:24: I, key');
  await page.keyboard.press('ArrowRight');
  await expect(page.getByTestId('frame-readout')).toContainText(/Frame 25, 02:00:01:00: [PB],/);
  for (const key of ['+', '+', 'End']) await page.keyboard.press(key);
  await expect(page.getByTestId('frame-readout')).toContainText('Frame 119');
  await expect(page.getByRole('region', { name: 'Frames' })).toContainText('every 24 frames');
  await expect(page.getByRole('region', { name: 'What it serves for' })).toContainText('Yes: Renditions');
});

test('an upload lands on its volume and in the library', async ({ page }) => {
  await addMediaVolume(page, 'Media two');
  await page.goto('/media');
  await page.keyboard.press('u');
  const form = page.getByRole('form', { name: 'Upload a clip' });
  await form.getByLabel('File').setInputFiles({ name: 'notes.txt', mimeType: 'text/plain', buffer: Buffer.from('no clip') });
  await form.getByLabel('To volume').selectOption({ label: 'Media two' });
  await form.getByRole('button', { name: 'Upload' }).click();
  await expect(form.getByRole('alert')).toContainText('notes.txt does not end like a media file');
  await form.getByLabel('File').setInputFiles(fileOf('TW_TEST_0003.mov'));
  await form.getByRole('button', { name: 'Upload' }).click();
  await expect(form).toBeHidden();
  await page.getByLabel('Filter Clips').fill('Media two');
  await expect(rows(page).filter({ hasText: 'TW_TEST_0003.mov' }).filter({ hasText: 'Media two' })).toContainText('ProRes Standard');
});

test('decode rates: started from the library, on one chart, each with its evidence', async ({ page }) => {
  await page.goto('/media');
  await page.getByLabel('Volume').selectOption({ label: 'Shuttle SSD' });
  await page.getByRole('checkbox', { name: /Choose small\/TW_TEST_0002/ }).check();
  await page.getByRole('button', { name: 'Measure decode rates' }).click();
  await expect(page).toHaveURL(/\/media\/decode$/);
  const compared = page.getByRole('figure', { name: 'Formats compared' });
  await expect(compared.locator('tbody tr')).toHaveCount(1, { timeout: 90_000 });
  await expect(compared).toContainText(/ms/);
  await compared.getByRole('link', { name: /H\.264/ }).click();
  await expect(page.getByTestId('answer')).toContainText(/^Decodes [\d.]+ frames\/s on all cores/);
  await expect(page.getByRole('table', { name: 'Cost of a frame by type' }).locator('tbody tr')).toHaveCount(3);
  await expect(page.getByRole('figure', { name: 'Cost of a jump' })).toContainText('more for every frame from the key frame');
  await expect(page.getByRole('region', { name: 'Conditions' })).toContainText('pinned to the first core');

  await page.getByRole('link', { name: 'small/TW_TEST_0002.mp4' }).click();
  await page.getByRole('radio', { name: 'Quarter' }).click();
  await page.getByLabel('Streams at most').fill('2');
  await page.getByRole('button', { name: 'Ramp streams' }).click();
  await expect(page.getByTestId('answer')).toContainText(/stream/, { timeout: 60_000 });
  await expect(page.getByRole('region', { name: 'Streams decoded' })).toContainText('Arithmetic');
});

test('decode support: the matrix fills, shows the silent fallback, and opens its evidence', async ({ page }) => {
  await page.goto('/media/support');
  const table = page.getByRole('table', { name: 'Decode support' });
  await table.getByRole('button', { name: /Try ProRes .* on Neap/ }).click();
  await expect(table.getByRole('row', { name: /^ProRes/ })).toContainText(/silent fallback|gain without device frames/, { timeout: 90_000 });
  await expect(table.getByRole('button', { name: /Try ProRes .* on Spring/ })).toBeVisible(); // unknown cells offer the run
  await table.getByRole('link', { name: /ProRes .* on Neap/ }).click();
  await expect(page.getByTestId('answer')).toContainText('Neap');
  await expect(page.getByRole('region', { name: 'Decode support' }).getByRole('alert')).toContainText(/Silent fallback|came from software/);
  await expect(page.getByRole('figure', { name: 'Interval against the limits' })).toBeVisible();
  await expect(page.getByRole('table', { name: 'Pairs, one pinned core' }).locator('tbody tr')).not.toHaveCount(0);
  await page.goto('/media/support');
  await expect(page.getByRole('region', { name: 'Decode devices' })).toContainText('No device');
});

test('renditions: made, proved frame by frame, in their footage, and not made twice', async ({ page }) => {
  await addMediaVolume(page, 'Media three');
  await page.goto(`/media/clips/${await clipId('TW_TEST_0002.mp4')}`);
  await page.getByRole('link', { name: 'Make a rendition' }).click();
  const form = page.getByRole('form', { name: 'Make renditions' });
  await expect(form).toContainText('Clips: 1 chosen');
  await form.getByLabel('Preset').selectOption({ label: 'Motion JPEG' });
  await form.getByLabel('To volume').selectOption({ label: 'Media three' });
  await expect(form).toContainText('TW_TEST_0002_mjpeg_half.mov: Motion JPEG, 240x136');
  await form.getByRole('button', { name: 'Make rendition' }).click();
  await expect(page.getByTestId('answer')).toContainText('1 of 1 made.', { timeout: 60_000 });
  await expect(page.getByTestId('answer')).toContainText('x real time');
  const table = page.getByRole('table', { name: 'Renditions of this batch' });
  await expect(table).toContainText('Frame i is frame i for 120 of 120 frames (by the frame code in the picture).');
  await expect(table).toContainText(/decoding|scaling|encoding|writing/);
  await table.getByRole('link', { name: /proxies\/TW_TEST_0002_mjpeg_half\.mov/ }).click();
  await expect(page.getByRole('region', { name: 'Renditions' })).toContainText('Made by Navvy');
  await expect(page.getByRole('table', { name: 'Clips of this footage' })).toContainText('original');

  await page.goto(`/media/renditions?clips=${await clipId('TW_TEST_0002.mp4')}`);
  await form.getByLabel('Preset').selectOption({ label: 'Motion JPEG' });
  await form.getByRole('button', { name: 'Make rendition' }).click();
  await expect(page.getByTestId('answer')).toContainText('1 there already', { timeout: 60_000 });
});

test('a batch is paused, left and found again, continued; a long one is cancelled at once', async ({ page }) => {
  await addMediaVolume(page, 'Media four');
  await page.goto('/media/renditions');
  const form = page.getByRole('form', { name: 'Make renditions' });
  await form.getByLabel('Find clips').fill('Media four');
  for (const box of await form.getByRole('group', { name: 'Clips to choose from' }).getByRole('checkbox').all()) await box.check();
  await form.getByLabel('Preset').selectOption({ label: 'FFV1 lossless' });
  await form.getByRole('radio', { name: 'Full' }).click();
  await form.getByLabel('To volume').selectOption({ label: 'Media four' });
  await form.getByLabel('Clips at a time').fill('none');
  await form.getByRole('button', { name: 'Make 2 renditions' }).click();
  await expect(form.getByRole('alert')).toContainText('Clips at a time must be a number.');
  await form.getByLabel('Clips at a time').fill('1');
  await form.getByRole('button', { name: 'Make 2 renditions' }).click();
  await page.waitForURL(/\/media\/renditions\/[0-9a-f]+$/);
  const address = page.url();
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(page.getByRole('heading', { name: /This batch is paused|2 of 2 made/ })).toBeVisible();
  await page.goto('/media');
  await page.goto(address);
  const next = page.getByRole('button', { name: 'Continue' });
  if (await next.isVisible()) await next.click();
  await expect(page.getByTestId('answer')).toContainText('2 of 2 made.', { timeout: 90_000 });
  await page.getByRole('button', { name: 'Remove this batch' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page).toHaveURL(/\/media\/renditions$/);

  await page.goto(`/media/clips/${await clipId('TW_TEST_0002.mp4')}`);
  await page.getByRole('button', { name: 'Measure decode rate' }).click();
  await page.waitForURL(/\/media\/decode\/[0-9a-f]+$/);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('heading', { name: 'This trial was cancelled' })).toBeVisible();
});

test('a clip that moves keeps its place in the library; one that goes is missing and can be forgotten', async ({ page }) => {
  const folder = await addMediaVolume(page, 'Media five');
  await mkdir(join(folder, 'moved'));
  await rename(join(folder, 'TW_TEST_0002.mp4'), join(folder, 'moved', 'TW_TEST_0002.mp4'));
  await rm(join(folder, 'broken.mov'));
  const before = await query<{ id: string }>("select c.id from clips c join volumes v on v.id = c.volume_id where v.name = 'Media five' and c.path = 'TW_TEST_0002.mp4'");
  await page.goto('/media');
  await page.getByRole('button', { name: 'Scan all volumes' }).click();
  await page.getByLabel('Volume').selectOption({ label: 'Media five' });
  await expect(rows(page).filter({ hasText: 'broken.mov' })).toContainText('missing', { timeout: 60_000 });
  const after = await query<{ id: string }>("select c.id from clips c join volumes v on v.id = c.volume_id where v.name = 'Media five' and c.path = 'moved/TW_TEST_0002.mp4'");
  expect(after).toEqual(before);
  await page.getByRole('checkbox', { name: 'Choose broken.mov' }).check();
  await page.getByRole('button', { name: 'Forget missing' }).click();
  await expect(rows(page)).toHaveCount(3);
});
