import { copyFile, mkdir, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { startCluster } from '@/cli/postgres';
import { ensureVolume, home, media, pidOf, query, savedSlots, startTrial, statusOf, untilSlotsSaved } from './helpers';

const clip = 'TW_TEST_0001';

/** The next trial must run, whatever happened to the one before. */
async function expectNextTrialRuns(page: Parameters<typeof startTrial>[0]): Promise<void> {
  const id = await startTrial(page, 'TW_TEST_0003', 'Quarter');
  await expect(page.getByTestId('answer')).toBeVisible({ timeout: 120_000 });
  expect(await statusOf(id)).toBe('done');
}

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

test('a runner that is killed comes back, closes what it left, and goes on with the queue', async ({ page, context }) => {
  const id = await startTrial(page, clip);
  const second = await context.newPage();
  const waiting = await startTrial(second, 'TW_TEST_0003');
  await untilSlotsSaved(id);
  const before = await savedSlots(id);
  process.kill(pidOf('runner'), 'SIGKILL');
  await expect(page.getByRole('heading', { name: 'This trial was interrupted' })).toBeVisible({ timeout: 120_000 });
  const after = await savedSlots(id);
  expect(after.whole).toBe(true);
  expect(after.slots).toBeGreaterThanOrEqual(before.slots);
  await expect(page.getByTestId('answer')).toContainText('Up to where it ended');
  await expect.poll(() => statusOf(waiting), { timeout: 120_000 }).toBe('done');
});

test('a server that is killed comes back while the trial goes on, and nothing is lost', async ({ page }) => {
  const id = await startTrial(page, clip);
  await untilSlotsSaved(id);
  process.kill(pidOf('server'), 'SIGKILL');
  await expect(page.getByText('Navvy does not answer. Trying again.')).toBeVisible();
  await expect(page.getByTestId('answer')).toContainText('240 slots', { timeout: 120_000 });
  expect(await savedSlots(id)).toEqual({ slots: 240, whole: true });
});

test('processes killed at random moments leave whole traces and a queue that goes on', async ({ page }) => {
  for (const service of ['runner', 'server', 'trial'] as const) {
    const id = await startTrial(page, clip);
    await page.waitForTimeout(Math.random() * 6_000);
    const trialPid = (await query<{ trial_pid: number | null }>('select trial_pid from runners'))[0]?.trial_pid ?? null;
    const pid = service === 'trial' ? trialPid : pidOf(service);
    if (pid !== null) process.kill(pid, 'SIGKILL');
    await expect.poll(() => statusOf(id), { timeout: 120_000 }).toMatch(/done|crashed|interrupted/);
    expect((await savedSlots(id)).whole).toBe(true);
    await expect.poll(async () => (await page.request.get('/api/status').catch(() => null))?.ok() ?? false, { timeout: 60_000 }).toBe(true);
  }
  await expectNextTrialRuns(page);
});

test('a stopped database is said on the page; the trial is saved when it is back', async ({ page }) => {
  const id = await startTrial(page, clip);
  await untilSlotsSaved(id);
  (await startCluster()).stop();
  await expect(page.getByText('The database does not answer. Trying again.')).toBeVisible();
  const away = await page.context().newPage();
  await away.goto('/media');
  await expect(away.getByRole('heading', { name: 'The database is away' })).toBeVisible();
  await startCluster();
  await expect(page.getByTestId('answer')).toContainText('240 slots', { timeout: 120_000 });
  expect(await savedSlots(id)).toEqual({ slots: 240, whole: true });
  await away.getByRole('button', { name: 'Try again' }).click();
  await expect(away.getByRole('heading', { name: 'What each clip is' })).toBeVisible();
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
