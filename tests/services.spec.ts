import { expect, test } from '@playwright/test';
import { startCluster } from '@/cli/postgres';
import { seededRandom } from '@/core/stats/random';
import {
  ensureVolume,
  expectNextTrialRuns,
  pidOf,
  savedSlots,
  startTrial,
  statusOf,
  untilSlotsSaved,
} from './helpers';

const clip = 'TW_TEST_0001';

test.beforeEach(async ({ page }) => ensureVolume(page));

test('a runner that is killed comes back, closes what it left, and goes on with the queue', async ({
  page,
  context,
}) => {
  const id = await startTrial(page, clip);
  const second = await context.newPage();
  const waiting = await startTrial(second, 'TW_TEST_0003');
  await untilSlotsSaved(id);
  const before = await savedSlots(id);
  process.kill(pidOf('runner'), 'SIGKILL');
  await expect(page.getByRole('heading', { name: 'This trial was interrupted' })).toBeVisible();
  const after = await savedSlots(id);
  expect(after.whole).toBe(true);
  expect(after.slots).toBeGreaterThanOrEqual(before.slots);
  await expect(page.getByTestId('answer')).toContainText('Up to where it ended');
  await expect.poll(() => statusOf(waiting)).toBe('done');
});

test('a server that is killed comes back while the trial goes on, and nothing is lost', async ({ page }) => {
  const id = await startTrial(page, clip);
  await untilSlotsSaved(id);
  process.kill(pidOf('server'), 'SIGKILL');
  await expect(page.getByText('Navvy does not answer. Trying again.')).toBeVisible();
  await expect(page.getByTestId('answer')).toContainText('240 slots');
  expect(await savedSlots(id)).toEqual({ slots: 240, whole: true });
});

test('processes killed at any moment leave whole traces and a queue that goes on', async ({ page }) => {
  const random = seededRandom(41);
  for (const [service, end] of [
    ['runner', 'interrupted'],
    ['server', 'done'],
    ['trial', 'crashed'],
  ] as const) {
    const id = await startTrial(page, clip);
    // A moment of the run, told by what is saved: any machine has time left after it.
    const moment = Math.floor(random() * 120);
    const trial = await untilSlotsSaved(id);
    await expect.poll(async () => (await savedSlots(id)).slots, { intervals: [100] }).toBeGreaterThan(moment);
    process.kill(service === 'trial' ? trial : pidOf(service), 'SIGKILL');
    await expect.poll(() => statusOf(id)).toBe(end);
    expect((await savedSlots(id)).whole).toBe(true);
    await expect
      .poll(async () => (await page.request.get('/api/status').catch(() => null))?.ok() ?? false)
      .toBe(true);
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
  await expect(page.getByTestId('answer')).toContainText('240 slots');
  expect(await savedSlots(id)).toEqual({ slots: 240, whole: true });
  await away.getByRole('button', { name: 'Try again' }).click();
  await expect(away.getByRole('heading', { name: 'What each clip is' })).toBeVisible();
  await expectNextTrialRuns(page);
});
