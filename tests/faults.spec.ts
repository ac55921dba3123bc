import { copyFile, mkdir, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, test, type Locator, type Page } from '@playwright/test';
import { expectAccessible, idOf } from './access';
import { writeOver } from '@/demo/writeOver';
import {
  beginTrial,
  chooseTrial,
  clipId,
  ensureVolume,
  expectNextTrialRuns,
  home,
  media,
  query,
  savedSlots,
  startTrial,
  statusOf,
  untilSlotsSaved,
} from './helpers';

const clip = 'TW_TEST_0001';

/** Adds a folder as a volume and scans it, through the interface. */
async function addCard(page: Page, name: string, folder: string): Promise<Locator> {
  await page.goto('/storage');
  await page.getByRole('button', { name: 'Add a volume' }).click();
  await page.getByLabel('Name').fill(name);
  await page.getByLabel('Folder on this host').fill(folder);
  await page.getByRole('button', { name: 'Add and scan' }).click();
  return page.getByRole('article', { name });
}

test.beforeEach(async ({ page }) => ensureVolume(page));

/** A card with a copy of a clip of which frames are damaged. */
async function addWornCard(page: Page, name: string, file: string, frames: readonly number[]) {
  const folder = join(home, 'media', name);
  await rm(folder, { recursive: true, force: true });
  await mkdir(folder, { recursive: true });
  const path = join(folder, file);
  await copyFile(join(media, 'small/TW_TEST_0003.mov'), path);
  await writeOver(path, frames);
  const card = await addCard(page, name, folder);
  await expect(card.getByRole('link', { name: '1 clip' })).toBeVisible();
  return { card, path };
}

test('a trial process that is killed is an outcome, and the next trial runs', async ({ page }) => {
  const id = await startTrial(page, clip);
  process.kill(await untilSlotsSaved(id), 'SIGKILL');
  await expect(page.getByRole('heading', { name: 'The trial process crashed' })).toBeVisible();
  await expect(page.getByText(/signal SIGKILL.*of 240 slots were saved/)).toBeVisible();
  expect((await savedSlots(id)).whole).toBe(true);
  await page.getByRole('button', { name: 'Try again' }).click();
  await expect(page.getByTestId('answer')).toContainText('240 slots');
  await expect(page.getByText('Attempt 2 of 2: crashed, done')).toBeVisible();
  await page.getByRole('link', { name: 'crashed' }).click();
  await expect(page.getByText('Attempt 1 of 2: crashed, done')).toBeVisible();
  await expectNextTrialRuns(page);
});

test('a trial process that hangs is ended by the watchdog', async ({ page }) => {
  const id = await startTrial(page, clip);
  process.kill(await untilSlotsSaved(id), 'SIGSTOP');
  await expect(page.getByRole('heading', { name: 'The trial process hung and was ended' })).toBeVisible();
  await expect(page.getByText('No frame moved for')).toBeVisible();
  await expectNextTrialRuns(page);
});

test('a failing card: what cannot be decoded drops by itself, is named with its places, and Media warns of it', async ({
  page,
}) => {
  const { card, path } = await addWornCard(page, 'Failing card', 'FAILING_0003.mov', [7, 20, 21]);

  // Every frame is tried, however late on a slow machine.
  await chooseTrial(page, 'FAILING_0003', 'Quarter');
  await page.getByText('Further conditions').click();
  await page.getByRole('radio', { name: 'Show every frame' }).click();
  const id = await beginTrial(page);
  await expect(page.getByTestId('answer')).toContainText(
    /^Every frame that decodes was shown at .*; 3 of 48 slots could not be decoded\./,
  );
  expect(await statusOf(id)).toBe('done');
  const note = page.getByRole('region', { name: 'Frames that are not whole' });
  await expect(note).toContainText(
    'At 03:00:00:07, 03:00:00:20 to 03:00:00:21: 3 frames are damaged and cannot be decoded. Copy the file again from its source',
  );
  await expectAccessible(page, [`/trials/${id}`]);

  await page.goto(`/media/clips/${await clipId('FAILING_0003.mov')}`);
  await expect(page.getByRole('list', { name: 'Warnings' })).toContainText(
    '3 damaged. At 03:00:00:07, 03:00:00:20 to 03:00:00:21',
  );
  await page.goto('/media');
  await expect(page.getByRole('row').filter({ hasText: 'FAILING_0003.mov' })).toContainText('3 damaged');

  // The editor's viewer says so at such a frame, and no second copy.
  await page.goto('/timelines');
  await page.getByRole('form', { name: 'New timeline' }).getByLabel('Name').fill('From the failing card');
  await page.getByRole('button', { name: 'Begin' }).click();
  await page.getByRole('checkbox', { name: /Choose .*FAILING_0003/ }).check();
  await page.getByRole('button', { name: 'Insert at the playhead' }).click();
  const viewer = page.getByRole('region', { name: 'Viewer' });
  for (const [slot, isWhole] of [
    [5, true],
    [7, false],
    [8, true],
  ] as const) {
    await page.getByLabel('Timecode of the playhead').fill(String(slot));
    await page.keyboard.press('Enter');
    await expect(viewer.getByRole('img', { name: `Slot ${slot}`, exact: true })).toBeVisible();
    await expect(viewer.getByText('The decoder makes no picture of a frame that is due here')).toHaveCount(
      isWhole ? 0 : 1,
    );
  }

  // The clip copied again from its source: what was known of the old one holds no more.
  await copyFile(join(media, 'small/TW_TEST_0003.mov'), path);
  await page.goto('/storage');
  await card.getByRole('button', { name: 'Scan' }).click();
  await expect
    .poll(
      async () =>
        (
          await query<{ faults: unknown }>('select faults from clips where path = $1', ['FAILING_0003.mov'])
        )[0]?.faults,
    )
    .toBeNull();
  await page.goto('/media');
  await expect(page.getByRole('row').filter({ hasText: 'FAILING_0003.mov' })).not.toContainText('damaged');
});

test('slots whose frames cannot be decoded are charged to their media', async ({ page }) => {
  // Every second frame: a slow machine gives some slots up before it comes to their frames, and not all.
  const frames = Array.from({ length: 24 }, (_, at) => 2 * at + 1);
  await addWornCard(page, 'Worn card', 'WORN_0003.mov', frames);
  const id = await startTrial(page, 'WORN_0003', 'Quarter');
  await expect(page.getByTestId('answer')).toContainText(/the media could not be decoded for \d+/);
  await expect(
    page.getByRole('table', { name: 'Drops by cause' }).getByRole('row').filter({ hasText: 'media' }),
  ).toContainText('the decoder made no picture of them');
  await expect(page.getByRole('list', { name: 'Legend of the ribbon' })).toContainText('dropped, media');
  await expectAccessible(page, [`/trials/${id}`]);
});

test('a clip that vanishes mid-run, a damaged file and a missing one are named', async ({ page }) => {
  const folder = join(home, 'media', 'faulty');
  await rm(folder, { recursive: true, force: true });
  await mkdir(folder, { recursive: true });
  await copyFile(join(media, 'small/TW_TEST_0001.mov'), join(folder, 'vanishing.mov'));
  await writeFile(join(folder, 'not-media.mov'), 'a text with the wrong ending');
  const card = await addCard(page, 'Card A', folder);
  await expect(card.getByText('1 with a problem')).toBeVisible();
  await page.goto('/media');
  await expect(page.getByRole('row').filter({ hasText: 'not-media.mov' })).toContainText(
    'could not be opened as media',
  );

  const id = await startTrial(page, 'vanishing');
  await untilSlotsSaved(id);
  await rename(join(folder, 'vanishing.mov'), join(folder, 'elsewhere.bak'));
  await expect(page.getByRole('heading', { name: 'This trial failed' })).toBeVisible();
  await expect(
    page.getByText(/vanishing\.mov is not there\. Check that the volume is connected/),
  ).toBeVisible();

  await page.goto('/storage');
  await card.getByRole('button', { name: 'Scan' }).click();
  await expect(card.getByText('2 with a problem')).toBeVisible();
  await card.getByRole('button', { name: 'Remove Card A' }).click();
  await expect(page.getByText('The files and the trials made from them stay.')).toBeVisible();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(card).toBeHidden();
  await page.goto(`/trials/${id}`);
  await expect(page.getByText('vanishing.mov').first()).toBeVisible();
  await expectNextTrialRuns(page);
});

test('its pages can be read and used by all, in both themes', async ({ page }) => {
  await expectAccessible(
    page,
    await Promise.all(
      ['crashed', 'hung', 'failed'].map(
        async (status) => `/trials/${await idOf(`trials where kind = 'playback' and status = '${status}'`)}`,
      ),
    ),
  );
});
