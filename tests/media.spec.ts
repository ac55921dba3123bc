import { mkdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { expectAccessible, idOf } from './access';
import { addMediaVolume, clipId, ensureVolume, fileOf, query } from './helpers';

const rows = (page: Page) => page.getByRole('table', { name: 'Clips', exact: true }).locator('tbody tr');

test.beforeEach(async ({ page }) => {
  await ensureVolume(page);
});

test('the library: what each clip is, what cannot be decoded, chosen and grouped by hand', async ({
  page,
}) => {
  await addMediaVolume(page, 'Media one');
  await page.goto('/media');
  await page.getByLabel('Volume').selectOption({ label: 'Media one' });
  await expect(rows(page)).toHaveCount(4);
  await page.getByRole('button', { name: /cannot be decoded/ }).click();
  await expect(rows(page)).toHaveCount(2);
  await expect(rows(page).filter({ hasText: 'A001.raw9' })).toContainText('could not be opened as media');
  // While the answer is on its way the rows before it, as many, are still there; chosen are those that were asked for.
  await page.route('**/api/clips?*state=ready*', async (route) => {
    await new Promise((resolve) => {
      setTimeout(resolve, 1_000);
    });
    await route.continue();
  });
  await page.getByLabel('State').selectOption({ label: 'Ready' });
  await expect(rows(page)).toHaveCount(2);
  await page.getByRole('checkbox', { name: 'Choose all Clips' }).check();
  const actions = page.getByRole('group', { name: 'Actions for Clips' });
  await expect(actions).toContainText('2 chosen');
  await actions.getByRole('button', { name: 'Group as one footage' }).click();
  // One piece of footage now, with its other file folded under it.
  await expect(rows(page)).toHaveCount(1);
  await expect(rows(page).first()).toContainText('1 rendition');
  await page.getByRole('button', { name: /^1 more of / }).click();
  await expect(rows(page)).toHaveCount(2);
  await expect(actions).toBeHidden();

  await page.getByRole('link', { name: /^TW_TEST_0002\.mp4/ }).click();
  await expect(page.getByRole('region', { name: 'Renditions' })).toContainText('grouped by hand');
  await page.getByRole('button', { name: 'Remove this clip' }).click();
  await expect(page.getByRole('region', { name: 'Renditions' })).toContainText('this clip only');
  await page.getByRole('button', { name: 'Group automatically' }).click();
  await expect(page.getByRole('region', { name: 'Renditions' })).toContainText(/\d+ clips/); // with its copy on the other volume
});

test('a clip’s page: the answer, warnings, pictures, and its frames by keyboard', async ({ page }) => {
  const id = await clipId('small/TW_TEST_0002.mp4');
  await page.goto(`/media/clips/${id}`);
  await expect(page.getByTestId('answer')).toContainText(
    'H.264 Main 8-bit 4:2:0, 480x270, 25 per second: Long-GOP, key every 24',
  );
  await expect(page.getByRole('img', { name: '12 pictures over the clip' })).toBeVisible();
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
  await expect(page.getByRole('region', { name: 'What it can be used for' })).toContainText(
    'Yes: Renditions',
  );
});

test('an upload lands on its volume and in the library', async ({ page }) => {
  await addMediaVolume(page, 'Media two');
  await page.goto('/media');
  await page.keyboard.press('u');
  const form = page.getByRole('form', { name: 'Upload a clip' });
  await form
    .getByLabel('File')
    .setInputFiles({ name: 'notes.txt', mimeType: 'text/plain', buffer: Buffer.from('no clip') });
  await form.getByLabel('To volume').selectOption({ label: 'Media two' });
  await form.getByRole('button', { name: 'Upload' }).click();
  await expect(form.getByRole('alert')).toContainText('notes.txt does not end like a media file');
  await form.getByLabel('File').setInputFiles(fileOf('TW_TEST_0003.mov'));
  await form.getByRole('button', { name: 'Upload' }).click();
  await expect(form).toBeHidden();
  await page.getByLabel('Filter Clips').fill('Media two');
  await expect(
    rows(page).filter({ hasText: 'TW_TEST_0003.mov' }).filter({ hasText: 'Media two' }),
  ).toContainText('ProRes Standard');
});

test('a clip that moves keeps its place in the library; one that goes is missing and can be forgotten', async ({
  page,
}) => {
  const folder = await addMediaVolume(page, 'Media five');
  await mkdir(join(folder, 'moved'));
  await rename(join(folder, 'TW_TEST_0002.mp4'), join(folder, 'moved', 'TW_TEST_0002.mp4'));
  await rm(join(folder, 'broken.mov'));
  const before = await query<{ id: string }>(
    "select c.id from clips c join volumes v on v.id = c.volume_id where v.name = 'Media five' and c.path = 'TW_TEST_0002.mp4'",
  );
  await page.goto('/media');
  await page.getByRole('button', { name: 'Scan all volumes' }).click();
  await page.getByLabel('Volume').selectOption({ label: 'Media five' });
  await expect(rows(page).filter({ hasText: 'broken.mov' })).toContainText('missing');
  const after = await query<{ id: string }>(
    "select c.id from clips c join volumes v on v.id = c.volume_id where v.name = 'Media five' and c.path = 'moved/TW_TEST_0002.mp4'",
  );
  expect(after).toEqual(before);
  await page.getByRole('checkbox', { name: 'Choose broken.mov' }).check();
  await page.getByRole('button', { name: 'Remove missing' }).click();
  await expect(rows(page)).toHaveCount(3);
});

test('its pages can be read and used by all, in both themes', async ({ page }) => {
  await expectAccessible(page, [
    '/media',
    ...(await Promise.all(
      ['ready', 'unplayable'].map(
        async (status) => `/media/clips/${await idOf(`clips where status = '${status}'`)}`,
      ),
    )),
  ]);
});
