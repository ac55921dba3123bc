import { copyFile, mkdir, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { expectAccessible, idOf } from './access';
import { ensureVolume, expectNextTrialRuns, home, media, savedSlots, startTrial, untilSlotsSaved } from './helpers';

const clip = 'TW_TEST_0001';

test.beforeEach(async ({ page }) => ensureVolume(page));

test('a trial process that is killed is an outcome, and the next trial runs', async ({ page }) => {
  const id = await startTrial(page, clip);
  process.kill(await untilSlotsSaved(id), 'SIGKILL');
  await expect(page.getByRole('heading', { name: 'The trial process crashed' })).toBeVisible();
  await expect(page.getByText(/signal SIGKILL.*of 240 slots were saved/)).toBeVisible();
  expect((await savedSlots(id)).whole).toBe(true);
  await expectNextTrialRuns(page);
});

test('a trial process that hangs is ended by the watchdog', async ({ page }) => {
  const id = await startTrial(page, clip);
  process.kill(await untilSlotsSaved(id), 'SIGSTOP');
  await expect(page.getByRole('heading', { name: 'The trial process hung and was ended' })).toBeVisible();
  await expect(page.getByText('No frame moved for')).toBeVisible();
  await expectNextTrialRuns(page);
});

test('a clip that vanishes mid-run, a damaged file and a missing one are named', async ({ page }) => {
  const folder = join(home, 'media', 'faulty');
  await rm(folder, { recursive: true, force: true });
  await mkdir(folder, { recursive: true });
  await copyFile(join(media, 'small/TW_TEST_0001.mov'), join(folder, 'vanishing.mov'));
  await writeFile(join(folder, 'not-media.mov'), 'a text with the wrong ending');
  await page.goto('/storage');
  await page.getByRole('button', { name: 'Add a volume' }).click();
  await page.getByLabel('Name').fill('Card A');
  await page.getByLabel('Folder on this host').fill(folder);
  await page.getByRole('button', { name: 'Add and scan' }).click();
  const card = page.getByRole('article', { name: 'Card A' });
  await expect(card.getByText('1 with a problem')).toBeVisible();
  await page.goto('/media');
  await expect(page.getByRole('row').filter({ hasText: 'not-media.mov' })).toContainText('could not be opened as media');

  const id = await startTrial(page, 'vanishing');
  await untilSlotsSaved(id);
  await rename(join(folder, 'vanishing.mov'), join(folder, 'elsewhere.bak'));
  await expect(page.getByRole('heading', { name: 'This trial failed' })).toBeVisible();
  await expect(page.getByText(/vanishing\.mov is not there\. Check that the volume is connected/)).toBeVisible();

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
  await expectAccessible(page, await Promise.all(['crashed', 'hung', 'failed'].map(async (status) => `/trials/${await idOf(`trials where status = '${status}'`)}`)));
});
