import { expect, test, type Page } from '@playwright/test';
import { buildTestLoad, clipId, ensureVolume, idInAddress, query, startTrial, statusOf } from './helpers';

test.beforeEach(async ({ page }) => ensureVolume(page));

/** Holds back what a page asks for until it is let go. */
async function holdBack(page: Page, what: RegExp): Promise<() => void> {
  let letGo!: () => void;
  const gone = new Promise<void>((resolve) => {
    letGo = resolve;
  });
  await page.route(what, async (route) => {
    await gone;
    await route.continue();
  });
  return letGo;
}

const scripts = /\/_next\/static\/.*\.js/;
const heading = (page: Page) => expect(page.getByRole('heading', { level: 1 }).first()).toBeVisible();

/** Opens a page whose script does not come, presses keys as soon as it is drawn, and lets the script come. */
async function pressBeforeAlive(page: Page, path: string, ...keys: string[]): Promise<void> {
  const release = await holdBack(page, scripts);
  await page.goto(path, { waitUntil: 'commit' });
  await heading(page);
  for (const key of keys) await page.keyboard.press(key);
  release();
}

test('on every page a key pressed before its script runs acts once it does', async ({ page }) => {
  await buildTestLoad(page, 'TW_TEST_0003', 1);
  const timeline = idInAddress(page);
  const trial = await startTrial(page, 'TW_TEST_0003', 'Quarter');
  await expect(page.getByTestId('answer')).toBeVisible();
  const [volume] = await query<{ id: string }>('select id from volumes');
  const paths = [
    '/rig',
    '/storage',
    `/storage/volumes/${volume!.id}`,
    '/storage/ladder',
    '/storage/planner',
    '/storage/copies',
    '/media',
    `/media/clips/${await clipId('small/TW_TEST_0001.mov')}`,
    '/media/decode',
    '/media/support',
    '/media/renditions',
    '/timelines',
    `/timelines/${timeline}`,
    `/timelines/${timeline}/runs`,
    '/timelines/tests',
    '/trials',
    `/trials/${trial}`,
    '/trials/plans',
    '/compare',
    '/choose',
    '/choose/new',
    '/choose/first',
    '/nowhere',
  ];
  for (const path of paths) {
    await pressBeforeAlive(page, path, '?');
    await expect(page.getByRole('dialog', { name: 'Keys of this screen' }), path).toBeVisible();
  }
});

test('keys, clicks and what was typed before a page is alive are not lost', async ({ page }) => {
  const release = await holdBack(page, scripts);
  await page.goto('/timelines', { waitUntil: 'commit' });
  const form = page.getByRole('form', { name: 'New timeline' });
  await form.getByLabel('Name').fill('Typed early');
  await form.getByRole('button', { name: 'Begin' }).click();
  release();
  await page.waitForURL(/\/timelines\/[0-9a-f]{10}$/);
  await expect(page.getByLabel('Name of the timeline')).toHaveValue('Typed early');

  const releaseAgain = await holdBack(page, scripts);
  await page.goto('/trials', { waitUntil: 'commit' });
  await page.getByRole('radio', { name: 'Half' }).click();
  await page.getByRole('combobox', { name: 'Clip' }).click();
  releaseAgain();
  await expect(page.getByRole('radio', { name: 'Half' })).toHaveAttribute('aria-checked', 'true');
  await expect(
    page.getByRole('dialog', { name: 'Clip' }).getByRole('option').filter({ hasText: 'TW_TEST_0003' }),
  ).toBeVisible();

  // Also while the scripts come in, one after the other.
  const [volume] = await query<{ id: string }>('select id from volumes limit 1');
  await page.goto(`/storage/volumes/${volume!.id}`, { waitUntil: 'commit' });
  const measure = page.getByRole('form', { name: 'Measure', exact: true });
  await measure.getByLabel('Block').selectOption('65536');
  await measure.getByLabel('Repeats').fill('7');
  await expect(measure).toContainText('Takes 1:45 at most');
  await expect(measure.getByLabel('Block')).toHaveValue('65536');
});

test('a running trial is cancelled by a key pressed before its page is alive', async ({ page }) => {
  const id = await startTrial(page, 'TW_TEST_0001');
  await pressBeforeAlive(page, `/trials/${id}`, 'Escape');
  await expect.poll(() => statusOf(id)).toBe('cancelled');
});

test('keys pressed while the next page is on its way act on it, in their order', async ({ page }) => {
  const id = await startTrial(page, 'TW_TEST_0001');
  await page.getByRole('link', { name: 'Media' }).click();
  await expect(page.getByRole('heading', { name: 'What each clip is' })).toBeVisible();
  const release = await holdBack(page, new RegExp(`/trials/${id}\\?.*_rsc=`));
  await page.getByLabel('Conditions').getByRole('link', { name: 'TW_TEST_0001.mov' }).click();
  await page.keyboard.press('Escape');
  release();
  await expect.poll(() => statusOf(id)).toBe('cancelled');

  // By keys alone, to Media and its upload form, before Media is there.
  const releaseMedia = await holdBack(page, /\/media\?.*_rsc=/);
  await page.keyboard.press('Shift+M');
  await page.keyboard.press('u');
  releaseMedia();
  await expect(page.getByRole('form', { name: 'Upload a clip' })).toBeVisible();

  // A key that the page left behind did not take is not for the next one: Media has no Escape, and the trial goes on.
  await page.keyboard.press('Escape');
  const second = await startTrial(page, 'TW_TEST_0003', 'Quarter');
  await expect(page.getByTestId('answer')).toBeVisible();
  expect(await statusOf(second)).toBe('done');
});

test('keys of the ribbon pressed before its trace is there act once it is', async ({ page }) => {
  const id = await startTrial(page, 'TW_TEST_0003', 'Quarter');
  await expect(page.getByTestId('answer')).toBeVisible();
  const release = await holdBack(page, new RegExp(`/api/trials/${id}/trace`));
  await page.goto(`/trials/${id}`);
  await heading(page);
  for (const key of ['End', 'ArrowLeft', 'ArrowLeft']) await page.keyboard.press(key);
  release();
  await expect(page.getByTestId('readout')).toContainText('slot 45');
});

test('a trial is started, watched and read by keyboard alone', async ({ page }) => {
  await page.goto('/trials');
  await page.keyboard.press('3');
  await expect(page.getByRole('radio', { name: 'Quarter' })).toHaveAttribute('aria-checked', 'true');
  await page.getByRole('combobox', { name: 'Clip' }).focus();
  await page.keyboard.press('Enter');
  await page.keyboard.type('TW_TEST_0003');
  await expect(page.getByRole('dialog', { name: 'Clip' }).getByRole('option')).toHaveCount(1);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('combobox', { name: 'Clip' })).toContainText('TW_TEST_0003');
  const start = page.getByRole('button', { name: 'Play and measure' });
  for (let tab = 0; tab < 8 && !(await start.evaluate((node) => node === document.activeElement)); tab++)
    await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('answer')).toContainText('slots');
  const readout = page.getByTestId('readout');
  for (const key of ['Home', 'ArrowRight', 'ArrowRight']) await page.keyboard.press(key);
  await expect(readout).toContainText('slot 2');
  await page.keyboard.press('ArrowLeft');
  await expect(readout).toContainText('slot 1');
});
