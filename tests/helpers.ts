import { readFileSync } from 'node:fs';
import { copyFile, mkdir, readdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { expect, type Locator, type Page } from '@playwright/test';
import pg from 'pg';

export const home = process.env.NAVVY_HOME ?? '.navvy-test';
export const media = process.env.NAVVY_TEST_MEDIA ?? '';

/** Process id of a service as its supervisor wrote it down. */
export function pidOf(service: 'server' | 'runner'): number {
  return Number(readFileSync(join(home, `${service}.pid`), 'utf8'));
}

export async function query<Row extends pg.QueryResultRow>(
  text: string,
  values: unknown[] = [],
): Promise<Row[]> {
  const client = new pg.Client({ connectionString: process.env.NAVVY_DATABASE_URL! });
  await client.connect();
  try {
    return (await client.query<Row>(text, values)).rows;
  } finally {
    await client.end();
  }
}

/** Adds the test media as a volume once, through the interface, and waits for its scan. */
export async function ensureVolume(page: Page): Promise<void> {
  await page.goto('/storage');
  if (await page.getByRole('article', { name: 'Shuttle SSD' }).isVisible()) return;
  await page.getByLabel('Name').fill('Shuttle SSD');
  await page.getByLabel('Folder on this host').fill(media);
  await page.getByRole('radio', { name: 'External' }).click();
  await page.getByRole('button', { name: 'Add and scan' }).click();
  await expect(
    page.getByRole('article', { name: 'Shuttle SSD' }).getByRole('link', { name: '3 clips' }),
  ).toBeVisible();
}

/** Starts a playback trial through the interface; returns its id. */
export async function startTrial(
  page: Page,
  clip: string,
  scale: 'Full' | 'Half' | 'Quarter' = 'Full',
): Promise<string> {
  await chooseTrial(page, clip, scale);
  return beginTrial(page);
}

/** Finds one of many by its words, and chooses the first that has them. */
export async function chooseFrom(scope: Page | Locator, label: string, words: string): Promise<void> {
  const choice = scope.getByRole('combobox', { name: label, exact: true });
  await choice.click();
  const page = 'page' in scope ? scope.page() : scope;
  const list = page.getByRole('dialog', { name: label, exact: true });
  await list.getByPlaceholder('Type to find').fill(words);
  await list.getByRole('option').filter({ hasText: words }).first().click();
  await expect(choice).toContainText(words);
}

/** Fills in the form of a playback trial. */
export async function chooseTrial(
  page: Page,
  clip: string,
  scale: 'Full' | 'Half' | 'Quarter' = 'Full',
): Promise<void> {
  await page.goto('/trials');
  await chooseFrom(page, 'Clip', clip);
  await page.getByRole('radio', { name: scale }).click();
}

/** Begins the trial that a form holds; returns its id. */
export async function beginTrial(page: Page): Promise<string> {
  await page.getByRole('button', { name: 'Play and measure' }).click();
  await page.waitForURL(/\/trials\/[0-9a-f]+$/);
  return idInAddress(page);
}

/** Waits until a trial has saved some slots; returns the process id of its trial process. */
export async function untilSlotsSaved(id: string): Promise<number> {
  await expect
    .poll(async () => (await query('select 1 from trace_batches where trial_id = $1', [id])).length)
    .toBeGreaterThan(0);
  let pid: number | null = null;
  await expect
    .poll(async () => {
      pid =
        (await query<{ trial_pid: number | null }>('select trial_pid from runners'))[0]?.trial_pid ?? null;
      return pid;
    })
    .not.toBeNull();
  return pid!;
}

export async function statusOf(id: string): Promise<string> {
  return (
    (await query<{ status: string }>('select status from trials where id = $1', [id]))[0]?.status ?? 'gone'
  );
}

/** Slots of a trial that are saved, and whether they follow each other without a gap. */
export async function savedSlots(id: string): Promise<{ slots: number; whole: boolean }> {
  const rows = await query<{ from_slot: number; slots: number }>(
    'select from_slot, slots from trace_batches where trial_id = $1 order by from_slot',
    [id],
  );
  let next = 0;
  const whole = rows.every(({ from_slot, slots }) => {
    const follows = from_slot === next;
    next += slots;
    return follows;
  });
  return { slots: next, whole };
}

/** A folder for one test below the test media, where volumes may lie. */
export async function testFolder(name: string): Promise<string> {
  const folder = join(home, 'media', `${name}-${Math.random().toString(36).slice(2, 8)}`);
  await mkdir(folder, { recursive: true });
  return folder;
}

/** Adds a stand-in through the interface: a folder behind a link and one fast drive. */
export async function addStandIn(
  page: Page,
  name: string,
  folder: string,
  link: string,
  kind: 'Network' | 'External' | 'Card' = 'Network',
): Promise<void> {
  await page.goto('/storage');
  await page.getByRole('button', { name: 'Add a volume' }).click();
  await page.getByLabel('Name', { exact: true }).fill(name);
  await page.getByLabel('Folder on this host').fill(folder);
  await page.getByRole('radio', { name: kind }).click();
  await page.getByRole('radio', { name: 'Simulated, by a model' }).click();
  await page.getByLabel('Link', { exact: true }).selectOption({ label: link });
  await page.getByLabel('Drives of this kind').selectOption({ label: 'NVMe SSD, 4 TB' });
  await page.getByLabel('How many').fill('1');
  await page.getByLabel('Level').selectOption('0');
  await page.getByRole('button', { name: 'Add and scan' }).click();
  await expect(page.getByRole('article', { name })).toContainText('simulated');
}

/** Opens a volume's page from the list. */
export async function openVolume(page: Page, name: string): Promise<void> {
  await page.goto('/storage');
  await page.getByRole('article', { name, exact: true }).getByRole('link', { name, exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name })).toBeVisible();
}

function isStorageProcess(pid: number): boolean {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('storage.mjs');
  } catch {
    return false;
  }
}

/** Waits until a storage trial has moved bytes; returns its process. */
export async function untilBytesMove(id: string): Promise<number> {
  await expect
    .poll(
      async () =>
        (
          await query<{ phase: string | null }>(
            "select progress->>'phase' as phase from trials where id = $1",
            [id],
          )
        )[0]?.phase ?? '',
    )
    .toMatch(/measuring|copying|verifying/);
  let pid: number | null = null;
  await expect
    .poll(async () => {
      pid =
        (await query<{ trial_pid: number | null }>('select trial_pid from runners'))[0]?.trial_pid ?? null;
      return pid !== null && isStorageProcess(pid); // the runner tells now and then: it may still name the one before
    })
    .toBe(true);
  return pid!;
}

/** Builds a test load of two streams of a clip through the interface; its timeline is open afterwards. */
export async function buildTestLoad(page: Page, clip: string, seconds: number): Promise<void> {
  await page.goto('/timelines');
  await page.getByRole('radio', { name: 'A test load' }).click();
  const load = page.getByRole('form', { name: 'Build a test load' });
  await chooseFrom(load, 'Clip', clip);
  await load.getByLabel('Streams').fill('2');
  await load.getByLabel('Length, s').fill(String(seconds));
  await load.getByRole('button', { name: 'Build' }).click();
  await page.waitForURL(/\/timelines\/[0-9a-f]{10}$/);
}

/** The id at the end of the open page's address. */
export function idInAddress(page: Page): string {
  return page.url().split('/').at(-1)!;
}

/** Navvy's own files that lie in a folder. */
export async function testFilesIn(folder: string): Promise<string[]> {
  return (await readdir(folder, { recursive: true })).filter((name) => name.includes('.navvy-'));
}

/** One of the small clips on disk. */
export function fileOf(name: string): string {
  return join(media, 'small', name);
}

/** The newest clip with a path. */
export async function clipId(path: string): Promise<string> {
  return (
    await query<{ id: string }>('select id from clips where path = $1 order by scanned_at desc limit 1', [
      path,
    ])
  )[0]!.id;
}

/** A real volume of its own with two whole clips, a damaged one and one of no known kind, scanned through the interface. */
export async function addMediaVolume(page: Page, name: string): Promise<string> {
  const folder = await testFolder('media');
  await mkdir(join(folder, 'day 1'));
  await copyFile(
    fileOf('TW_TEST_0001.mov'),
    join(folder, 'day 1', 'TW_LONG_NAME_OF_A_CLIP_THAT_WAS_NAMED_BY_SOMEBODY_WITH_MUCH_TIME_0001.mov'),
  );
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

/** The next trial must run, whatever happened to the one before. */
export async function expectNextTrialRuns(page: Page): Promise<void> {
  const id = await startTrial(page, 'TW_TEST_0003', 'Quarter');
  // What is kept first: a trial that ended otherwise and a page that did not hear of its end are two things.
  await expect.poll(() => statusOf(id)).toBe('done');
  await expect(page.getByTestId('answer')).toBeVisible();
}
