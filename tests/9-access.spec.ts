import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { ensureVolume, query, startTrial } from './helpers';

/** Faults against WCAG 2.2 A and AA that a machine can find, as "rule: element". Of the light theme only what colour decides: all else is the same in both. No page has frames, which the legacy mode leaves out. */
async function faults(page: Page, theme: 'dark' | 'light' = 'dark'): Promise<string[]> {
  const builder = new AxeBuilder({ page }).setLegacyMode(true);
  const { violations } = await (theme === 'light' ? builder.withRules(['color-contrast', 'link-in-text-block']) : builder.withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])).analyze();
  return violations.flatMap(({ id, nodes }) => nodes.map(({ html, failureSummary }) => `${id}: ${html.slice(0, 160)} ${failureSummary?.split('\n').at(1)?.trim() ?? ''}`));
}

for (const theme of ['dark', 'light'] as const) {
  test(`every page can be read and used by all in the ${theme} theme`, async ({ page }) => {
    await page.addInitScript((wanted) => localStorage.setItem('theme', wanted), theme);
    await ensureVolume(page);
    const [ended] = await query<{ id: string }>("select id from trials where status = 'done' and kind = 'playback' and (summary->>'dropped')::int >= 0 order by (summary->>'dropped')::int desc limit 1");
    const id = ended?.id ?? (await startTrial(page, 'TW_TEST_0003'));
    const [volume] = await query<{ id: string }>('select id from volumes limit 1');
    const [storageTrial] = await query<{ id: string }>("select id from storage_trials where status = 'done' limit 1");
    const storagePages = [`/storage/volumes/${volume!.id}`, '/storage/ladder', '/storage/planner', '/storage/copies', ...(storageTrial ? [`/storage/trials/${storageTrial.id}`] : [])];
    const [clip] = await query<{ id: string }>("select id from clips where status = 'ready' limit 1");
    const [unplayable] = await query<{ id: string }>("select id from clips where status = 'unplayable' limit 1");
    const decodeTrials = await query<{ id: string }>("select distinct on (kind) id from decode_trials where status = 'done'");
    const [batch] = await query<{ id: string }>('select id from rendition_jobs limit 1');
    const mediaPages = ['/media/decode', '/media/support', '/media/renditions', ...[clip, unplayable].flatMap((row) => (row ? [`/media/clips/${row.id}`] : [])), ...decodeTrials.map((row) => `/media/decode/${row.id}`), ...(batch ? [`/media/renditions/${batch.id}`] : [])];
    const [timeline] = await query<{ id: string }>("select id from timelines where removed_at is null and slots > 0 and id not like 'clip-%' limit 1");
    const tests = await query<{ id: string }>("select distinct on (kind) id from timeline_tests where status = 'done'");
    const timelinePages = ['/timelines', '/timelines/tests', ...(timeline ? [`/timelines/${timeline.id}`, `/timelines/${timeline.id}/runs`] : []), ...tests.map((row) => `/timelines/tests/${row.id}`)];
    const [plan] = await query<{ id: string }>("select id from plans where status = 'done' limit 1");
    const [brief] = await query<{ id: string }>('select id from briefs limit 1');
    const decidePages = ['/trials/plans', '/compare', '/choose', '/choose/new', '/choose/first', ...(plan ? [`/trials/plans/${plan.id}`, `/compare?sides=p.${plan.id}`] : []), ...(brief ? [`/choose/${brief.id}`, `/choose/${brief.id}/edit`, `/choose/${brief.id}/report`] : [])];
    for (const path of [...decidePages, ...storagePages, ...mediaPages, ...timelinePages, '/rig', '/storage', '/media', '/trials', `/trials/${id}`, '/nowhere']) {
      await page.goto(path);
      await expect(page.locator('html')).toHaveAttribute('data-theme', theme);
      await expect(page.getByRole('heading', { level: 1 }).first()).toBeVisible();
      if (path.endsWith(id)) await expect(page.getByTestId('readout')).toContainText('slot', { timeout: 120_000 });
      expect(await faults(page, theme), path).toEqual([]);
    }
    await page.keyboard.press('?');
    await expect(page.getByRole('dialog', { name: 'Keys of this screen' })).toBeVisible();
    expect(await faults(page, theme), 'key help').toEqual([]);
    await page.keyboard.press('Escape');
    await page.keyboard.press('Control+k');
    await expect(page.getByPlaceholder('Find an action')).toBeVisible();
    expect(await faults(page, theme), 'palette').toEqual([]);
  });
}

test('a running trial can be read and used by all', async ({ page }) => {
  await ensureVolume(page);
  await startTrial(page, 'TW_TEST_0001');
  await expect(page.getByAltText(/Frame \d+ as presented/)).toBeVisible();
  expect(await faults(page)).toEqual([]);
  await page.keyboard.press('Escape'); // cancels
  await expect(page.getByRole('heading', { name: 'This trial was cancelled' })).toBeVisible();
});

test('a trial is started, watched and read by keyboard alone', async ({ page }) => {
  await ensureVolume(page);
  await page.goto('/trials');
  await expect(async () => { // keys work as soon as the page does
    await page.keyboard.press('3');
    await expect(page.getByRole('radio', { name: 'Quarter' })).toHaveAttribute('aria-checked', 'true', { timeout: 500 });
  }).toPass();
  await page.getByLabel('Clip', { exact: true }).focus();
  await page.keyboard.press('End');
  const start = page.getByRole('button', { name: 'Play and measure' });
  for (let tab = 0; tab < 8 && !(await start.evaluate((node) => node === document.activeElement)); tab++) await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('answer')).toContainText('slots', { timeout: 120_000 });
  const readout = page.getByTestId('readout');
  await expect(readout).toContainText('slot');
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await expect(readout).toContainText('slot 2');
  await page.keyboard.press('ArrowLeft');
  await expect(readout).toContainText('slot 1');
});

test('moving parts stand still for those who ask for it', async ({ page }) => {
  await page.emulateMedia({ reducedMotion: 'reduce' });
  await page.goto('/trials');
  const durations = await page.evaluate(() => [...document.querySelectorAll('*')].map((node) => getComputedStyle(node).transitionDuration).filter((value) => value !== '0s'));
  expect(durations).toEqual([]);
});
