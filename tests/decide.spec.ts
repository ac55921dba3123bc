import { asExported } from '../src/core/formats/testing/bundleSamples';
import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { expectAccessible, idOf } from './access';
import { buildTestLoad, ensureVolume, openVolume, query } from './helpers';

const box = (page: Page, list: string, item: RegExp) =>
  page.getByRole('group', { name: list }).getByRole('checkbox', { name: item });

/** Fills the matrix form with one clip at quarter scale, read from the test volume: other tests leave the same clip on others. */
async function ownMatrix(page: Page, clip: RegExp, repeats: number): Promise<void> {
  await page.goto('/trials/plans');
  const form = page.getByRole('form', { name: 'New matrix' });
  await form.getByLabel('Question').selectOption({ label: 'Custom matrix' });
  for (const list of ['Clips and timelines', 'Volumes'])
    for (const chosen of await form.getByRole('group', { name: list }).getByRole('checkbox').all())
      await chosen.uncheck();
  await box(page, 'Clips and timelines', clip).check();
  await box(page, 'Volumes', /^Shuttle SSD$/).check();
  await form.getByRole('group', { name: 'Tests' }).getByRole('checkbox', { name: 'Scrub' }).uncheck();
  for (const scale of ['Full', 'Half'])
    await form
      .getByRole('group', { name: 'Playback scales' })
      .getByRole('checkbox', { name: scale })
      .uncheck();
  await form
    .getByRole('group', { name: 'Playback scales' })
    .getByRole('checkbox', { name: 'Quarter' })
    .check();
  await form.getByLabel('Repeats').fill(String(repeats));
  await form.getByLabel('More for runs in doubt').fill('0');
}

test('the whole way: rig, storage, media, timeline, matrix, compare, decide, report', async ({ page }) => {
  test.setTimeout(420_000);
  // Rig and storage.
  await page.goto('/rig');
  await expect(page.getByText('What it is')).toBeVisible();
  await ensureVolume(page);
  await openVolume(page, 'Shuttle SSD');
  await page.getByRole('radio', { name: 'Read', exact: true }).click();
  await page.getByLabel('Repeats').fill('1');
  await page.getByRole('form', { name: 'Measure' }).getByRole('button', { name: 'Measure' }).click();
  await page.waitForURL(/\/storage\/trials\/[0-9a-f]+$/);
  await expect(page.getByTestId('answer')).toBeVisible();
  await expect(
    page.getByRole('region', { name: 'The rig during the run' }).getByTestId('telemetry'),
  ).toBeVisible();
  // Media, and a timeline of two streams of a clip.
  await page.goto('/media');
  await expect(page.getByRole('table', { name: 'Clips' })).toContainText('TW_TEST_0002.mp4');
  await buildTestLoad(page, 'TW_TEST_0002', 1);
  // A matrix of the clip and the timeline.
  await ownMatrix(page, /TW_TEST_0002\.mp4.*H\.264/, 2);
  await box(page, 'Clips and timelines', /2 streams of TW_TEST_0002/)
    .first()
    .check();
  await expect(page.getByRole('status').filter({ hasText: '2 conditions, 4 runs, about' })).toBeVisible();
  await page.getByRole('button', { name: 'Start 4 runs' }).click();
  await page.waitForURL(/\/trials\/plans\/[0-9a-f]+$/);
  await expect(page.getByTestId('plan-state')).toContainText('All 4 runs ended', { timeout: 180_000 });
  await expect(
    page.getByRole('table', { name: 'Conditions' }).getByRole('link', { name: /Repeat 1: done/ }),
  ).toHaveCount(2);
  // Compare.
  await page.getByRole('link', { name: 'Compare', exact: true }).last().click();
  await page.waitForURL(/\/compare\?sides=p\./);
  await expect(page.getByTestId('answer')).toContainText('too few repeats to tell (2 and 2 repeats');
  await expect(page.getByRole('heading', { name: /They differ in content|Besides content/ })).toBeVisible();
  await expect(page.getByRole('img', { name: /^Slots of / })).toHaveCount(2);
  await page.getByLabel('Compared by').selectOption({ label: 'Decoding, per second of media' });
  await expect(page.getByRole('figure', { name: /Decoding, per second of media by side/ })).toBeVisible();
  const csv = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Every repeat as CSV' }).click();
  expect(
    readFileSync(await (await csv).path(), 'utf8')
      .trim()
      .split('\n'),
  ).toHaveLength(5);
  // Decide.
  await page.goto('/choose/new');
  const brief = page.getByRole('form', { name: 'Brief' });
  await brief.getByLabel('Job').fill('Harbour wall');
  await brief.getByLabel('Reference clip').selectOption({
    label: (await brief.getByLabel('Reference clip').locator('option').allTextContents()).find((text) =>
      text.includes('TW_TEST_0002.mp4'),
    )!,
  });
  await brief.getByLabel('Camera', { exact: true }).fill('Kite camera');
  await brief.getByLabel('A day, h').fill('0');
  await brief.getByRole('radio', { name: 'Quarter' }).click();
  await brief.getByRole('button', { name: 'Draw the map' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'A camera brings some of the day' })).toBeVisible();
  await expect(brief.getByLabel('Job')).toHaveValue('Harbour wall');
  await brief.getByLabel('A day, h').fill('2');
  await brief.getByRole('button', { name: 'Draw the map' }).click();
  await page.waitForURL(/\/choose\/[0-9a-f]+$/);
  const map = page.getByRole('table', { name: 'Decision map' });
  const cell = map.getByRole('button', { name: /Kite camera from Shuttle SSD/ });
  await expect(cell).toContainText('measured, 2 runs');
  await cell.click();
  await expect(page.getByRole('dialog')).toContainText('2 measured runs');
  await page
    .getByRole('dialog')
    .getByRole('link', { name: /dropped/ })
    .first()
    .click();
  await expect(page.getByTestId('answer')).toContainText('slots');
  await expect(page.getByTestId('telemetry')).toBeVisible();
  await page.goBack();
  await expect(page.getByRole('table', { name: 'Set-ups' })).toContainText('Shuttle SSD');
  // Report.
  await page.getByRole('link', { name: 'Report' }).click();
  for (const name of ['Answer', 'Evidence', 'Runs', 'Conditions', 'Method'])
    await expect(page.getByRole('region', { name, exact: true })).toBeVisible();
  await expect(page.getByRole('img', { name: /^Slots of / })).toBeVisible();
  const svg = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save as SVG' }).click();
  expect(readFileSync(await (await svg).path(), 'utf8')).toMatch(/^<svg[^]*Kite camera/);
});

test('a matrix is paused, goes on after its runner was killed, and a run of it is skipped', async ({
  page,
}) => {
  test.setTimeout(300_000);
  await ensureVolume(page);
  await ownMatrix(page, /TW_TEST_0001\.mov.*Motion JPEG/, 2);
  // The page arrives late: what the runner told meanwhile reached nobody, and the page must find out by itself.
  await page.route(/\/trials\/plans\/[0-9a-f]+\?.*_rsc=/, async (route) => {
    const response = await route.fetch();
    await expect
      .poll(
        async () =>
          (
            await query<{ status: string }>(
              "select s.status from plan_steps s join plans p on p.id = s.plan_id where p.status = 'running' and s.status = 'running'",
            )
          ).length,
      )
      .toBe(1);
    await route.fulfill({ response });
  });
  await page.getByRole('button', { name: 'Start 2 runs' }).click();
  await page.waitForURL(/\/trials\/plans\/[0-9a-f]+$/);
  const id = page.url().split('/').at(-1)!;
  await expect(page.getByText(/^Now: Playback, TW_TEST_0001\.mov from Shuttle SSD, repeat 1/)).toBeVisible();
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(page.getByTestId('plan-state')).toContainText('Paused after 0 of 2 runs');
  await page.getByRole('button', { name: 'Continue' }).click();
  await expect(page.getByText(/^Now: .*repeat 1, slot/)).toBeVisible();
  await page.getByRole('button', { name: 'Skip this run' }).click();
  await expect(page.getByText(/^Now: .*repeat 2, slot/)).toBeVisible();
  const [runner] = await query<{ pid: number }>('select pid from runners');
  process.kill(runner!.pid, 'SIGKILL');
  await expect(page.getByTestId('plan-state')).toContainText('All 2 runs ended', { timeout: 180_000 });
  expect(
    (
      await query<{ status: string }>('select status from plan_steps where plan_id = $1 order by position', [
        id,
      ])
    ).map(({ status }) => status),
  ).toEqual(['skipped', 'done']);
  await page.getByRole('button', { name: 'Make up 1 missing' }).click();
  await expect(page.getByTestId('plan-state')).toContainText('All 3 runs ended');
});

test('from a folder to an own map in five steps, measuring what is unknown', async ({ page }) => {
  test.setTimeout(300_000);
  await ensureVolume(page);
  await page.goto('/choose/first');
  await page.getByRole('button', { name: 'Shuttle SSD', exact: true }).click();
  const list = page.getByRole('group', { name: 'One clip for each camera' });
  await expect(list.getByRole('checkbox', { checked: true }).first()).toBeVisible();
  await list.getByRole('button', { name: 'None' }).click();
  await list
    .getByRole('checkbox', { name: /TW_TEST_0003/ })
    .first()
    .check();
  const job = page.getByRole('form', { name: 'Job' });
  await job.getByLabel('Job').fill('Own footage');
  await job.getByRole('radio', { name: 'Half' }).click();
  await job.getByRole('button', { name: 'Measure 1 camera' }).click();
  await page.waitForURL(/\/choose\/[0-9a-f]+$/);
  await expect(
    page
      .getByRole('table', { name: 'Decision map' })
      .getByRole('button', { name: /TW_TEST_0003 from Shuttle SSD/ }),
  ).toContainText('measured, 3 runs');
  await expect(page.getByTestId('answer')).not.toContainText('unknown');
});

test('a trial is repeated as a series, annotated, and results go out and come in as another rig', async ({
  page,
}) => {
  test.setTimeout(300_000);
  await ensureVolume(page);
  const [trial] = await query<{ id: string }>(
    "select id from trials where status = 'done' and kind = 'playback' and (progress->>'slotCount')::int < 200 and rig_id in (select rig_id from runners) and clip_id is not null order by created_at desc limit 1",
  );
  await page.goto(`/trials/${trial!.id}`);
  await page.getByText('Note, or leave out of comparisons').click();
  await page.getByRole('checkbox', { name: 'Does not count' }).check();
  await page.getByLabel('Because').fill('the cable was loose');
  await page.getByRole('form', { name: 'Note' }).getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('This result does not count')).toBeVisible();
  await page.goto(`/compare?sides=t.${trial!.id}`);
  await expect(page.getByText('does not count: the cable was loose')).toBeAttached();
  await page.goto(`/trials/${trial!.id}`);
  await page.getByLabel('Repeats of the series').fill('2');
  await page.getByLabel('More for runs in doubt').fill('0');
  await page.getByRole('button', { name: 'Series of' }).click();
  await page.waitForURL(/\/trials\/plans\/[0-9a-f]+$/);
  await expect(page.getByTestId('plan-state')).toContainText('All 2 runs ended');

  await page.goto('/rig');
  const out = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Export this rig’s results' }).click();
  const bundle = JSON.parse(readFileSync(await (await out).path(), 'utf8')) as {
    rig: { id: string; name: string };
    trials: { id: string; kind: string; planId: string | null }[];
    plans: { id: string; steps: { trialId: string | null }[] }[];
  };
  const played = bundle.trials.find(({ kind }) => kind === 'playback')!.id;
  const foreign = {
    ...bundle,
    rig: { ...bundle.rig, id: 'rig-foreign', name: 'Quoin' },
    trials: bundle.trials.map((one) => ({
      ...one,
      id: `q${one.id}`,
      planId: one.planId && `q${one.planId}`,
    })),
    plans: bundle.plans.map((one) => ({
      ...one,
      id: `q${one.id}`,
      steps: one.steps.map((step) => ({ ...step, trialId: step.trialId && `q${step.trialId}` })),
    })),
  };
  const file = {
    name: 'quoin.json',
    mimeType: 'application/json',
    buffer: Buffer.from(asExported(foreign)),
  };
  const input = page.getByLabel('Bundle to import');
  const stored = () => query<{ count: string }>("select count(*) from trials where rig_id = 'rig-foreign'");
  await input.setInputFiles(file);
  // What it holds is told before anything is stored.
  await expect(page.getByText('Nothing is stored yet.')).toBeVisible();
  await expect(page.getByText('Its hashes are right')).toBeVisible();
  expect((await stored())[0]?.count).toBe('0');
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await expect(page.getByText(/\d+ results? added\./)).toBeVisible();
  expect(Number((await stored())[0]?.count)).toBe(bundle.trials.length);
  await page.getByRole('button', { name: 'Close' }).click();
  await input.setInputFiles(file);
  await page.getByRole('button', { name: 'Import', exact: true }).click();
  await expect(page.getByText(/0 results added, \d+ were here already/)).toBeVisible();
  await page.getByRole('button', { name: 'Close' }).click();
  // The same with a figure changed on the way, and its hashes as they were.
  await input.setInputFiles({
    ...file,
    name: 'touched.json',
    buffer: Buffer.from(asExported(foreign).replace(/"outcome":"[^"]*"/, '"outcome":"all well"')),
  });
  await expect(
    page.getByRole('alert').filter({ hasText: /touched.json: \w+\[\d+\] is not what was exported/ }),
  ).toBeVisible();
  await input.setInputFiles({
    name: 'notes.json',
    mimeType: 'application/json',
    buffer: Buffer.from('{"format":"notes"}'),
  });
  await expect(
    page.getByRole('alert').filter({ hasText: 'notes.json: The file is not a result bundle' }),
  ).toBeVisible();
  await page.goto(`/trials/q${played}`);
  await expect(page.getByText('From the rig Quoin, imported as a bundle.')).toBeVisible();
  // Its matrices came along, to be looked at and not run.
  await page.goto('/trials/plans');
  await page
    .getByRole('row')
    .filter({ hasText: 'from Quoin, imported' })
    .first()
    .getByRole('link')
    .first()
    .click();
  await expect(page.getByText('Came with a bundle of Quoin')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Run it all again' })).toBeHidden();
  await page.goto(`/compare?sides=t.${played},t.q${played}`);
  await expect(page.getByRole('heading', { name: /They differ in rig/ })).toBeVisible();
  await page.goto('/rig');
  await page.getByRole('button', { name: 'Remove Quoin' }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByText('No other rig yet')).toBeVisible();
});

test('its pages can be read and used by all, in both themes', async ({ page }) => {
  const plan = await idOf("plans where status = 'done'");
  const brief = await idOf('briefs');
  await expectAccessible(page, [
    '/trials/plans',
    `/trials/plans/${plan}`,
    '/compare',
    `/compare?sides=p.${plan}`,
    '/choose',
    '/choose/new',
    '/choose/first',
    `/choose/${brief}`,
    `/choose/${brief}/edit`,
    `/choose/${brief}/report`,
    '/rig',
  ]);
});
