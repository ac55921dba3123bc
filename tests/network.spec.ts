import { copyFile, mkdir } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { ensureVolume, fileOf, openVolume, query, savedSlots, testFolder, untilSlotsSaved } from './helpers';
import { mountedServer, mountOverNetwork, whyNoMounts, type NetworkMount } from './networkMount';

/** What the link of the store lets through, bytes a second: far less than this host reads by itself. */
const linkRate = 24e6;
const store = 'Harbour-office store, mounted';
const clips = ['TW_TEST_0001.mov', 'TW_TEST_0002.mp4', 'TW_TEST_0003.mov'];

let mount: NetworkMount | null = null;
let reason: string | null = null;
let volumeId = '';

test.beforeAll(async () => {
  reason = await whyNoMounts();
  if (reason !== null) return;
  const source = await testFolder('served');
  await mkdir(join(source, 'reel'));
  for (const clip of clips) await copyFile(fileOf(clip), join(source, 'reel', clip));
  try {
    mount = await mountOverNetwork(resolve(source), resolve(await testFolder('mounted')), linkRate);
  } catch (error) {
    reason = `the host refused the mount: ${String(error)}`;
  }
});
test.afterAll(async () => mount?.end());
test.beforeEach(() => {
  test.skip(reason !== null, `No mount over a network here: ${reason}`);
});

interface Found {
  readonly status: string;
  readonly outcome: string | null;
  readonly summary: Record<string, never>;
  readonly conditions: { readonly run?: { readonly cold: { readonly method: string } } } | null;
}

async function begin(page: Page, body: object): Promise<string> {
  const answer = await page.request.post('/api/trials', { data: body });
  expect(answer.status(), await answer.text()).toBeLessThan(300);
  return ((await answer.json()) as { id: string }).id;
}

async function ended(id: string): Promise<Found> {
  const found = async () =>
    (await query<Found>('select status, outcome, summary, conditions from trials where id = $1', [id]))[0]!;
  await expect.poll(async () => (await found()).status).not.toMatch(/queued|running/);
  return found();
}

test('a mount over a network is added as it lies there, and its server and share are found out', async ({
  page,
}) => {
  await ensureVolume(page);
  await page.goto('/storage');
  await page.getByRole('button', { name: 'Add a volume' }).click();
  await page.getByLabel('Name', { exact: true }).fill(store);
  await page.getByLabel('Folder on this host').fill(mount!.folder);
  await page.getByRole('radio', { name: 'Network' }).click();
  await page.getByRole('button', { name: 'Add and scan' }).click();
  await expect(
    page.getByRole('article', { name: store }).getByRole('link', { name: `${clips.length} clips` }),
  ).toBeVisible();
  await openVolume(page, store);
  await expect(page.getByText(`of server ${mountedServer}`)).toBeVisible();
  await expect(page.getByText('fuse.sshfs')).toBeVisible();
  [{ id: volumeId } = { id: '' }] = await query<{ id: string }>('select id from volumes where name = $1', [
    store,
  ]);
});

test('what it sustains is what its link lets through, and no more', async ({ page }) => {
  const id = await begin(page, {
    kind: 'throughput',
    volumeId,
    test: 'sequential-read',
    bytes: 48 * 2 ** 20,
    blockBytes: 2 ** 20,
    seconds: 20,
    repeats: 1,
  });
  await page.goto(`/storage/trials/${id}`);
  await expect(page.getByTestId('link')).toContainText(`${mountedServer} over lo`);
  const { status, summary, outcome } = await ended(id);
  expect(status, outcome ?? '').toBe('done');
  // What passes the way to the store is at least what was read from it, and not twice as much.
  const [{ carried, moved } = { carried: 0, moved: 0 }] = await query<{ carried: number; moved: number }>(
    "select (load->'link'->>'carriedBytes')::float8 as carried, (load->'link'->>'movedBytes')::float8 as moved from trials where id = $1",
    [id],
  );
  expect(moved).toBeGreaterThan(0);
  expect(carried).toBeGreaterThan(0.9 * moved);
  expect(carried).toBeLessThan(2 * moved);
  await page.goto(`/storage/trials/${id}`);
  await expect(page.getByText(`${mountedServer} over lo:`)).toBeVisible();
  await expect(page.getByRole('img', { name: 'passed the interface to the server' })).toBeVisible();
  const { sustained } = (summary as unknown as { read: { sustained: number } }).read;
  expect(sustained).toBeLessThan(1.1 * linkRate);
  // A machine that is busy with others gets less through, but the link is what holds it.
  expect(sustained).toBeGreaterThan(0.2 * linkRate);
});

test('it plays, carries streams and is copied from, verified', async ({ page }) => {
  const [{ id: clip } = { id: '' }] = await query<{ id: string }>(
    'select id from clips where volume_id = $1 and path like $2',
    [volumeId, '%TW_TEST_0003.mov'],
  );
  const played = await ended(await begin(page, { kind: 'playback', clipId: clip, scale: 'quarter' }));
  expect(played.status, played.outcome ?? '').toBe('done');
  // How the mount was read cold is found out, not assumed.
  expect(played.conditions?.run?.cold.method).toMatch(/^(direct|evicted)$/);
  const carried = await ended(
    await begin(page, { kind: 'streams-carried', clipId: clip, seconds: 2, mostStreams: 2 }),
  );
  expect(carried.status, carried.outcome ?? '').toBe('done');
  const [target] = await query<{ id: string }>("select id from volumes where name = 'Shuttle SSD'");
  const copy = await begin(page, {
    kind: 'copy',
    volumeId,
    destinations: [{ volumeId: target!.id, folder: 'from-the-store' }],
  });
  expect((await ended(copy)).status).toBe('done');
  await page.goto(`/storage/trials/${copy}`);
  await expect(page.getByTestId('answer')).toContainText('copied and verified');
});

test('pulled away in mid-run, it ends the run with its place and says what happened and what to do', async ({
  page,
}) => {
  const [{ id: clip } = { id: '' }] = await query<{ id: string }>(
    'select id from clips where volume_id = $1 and path like $2',
    [volumeId, '%TW_TEST_0001.mov'],
  );
  const id = await begin(page, { kind: 'playback', clipId: clip, scale: 'quarter' });
  await untilSlotsSaved(id);
  mount!.pull();
  const { status, outcome } = await ended(id);
  expect(status).toBe('failed');
  expect(outcome).toMatch(/went away|is not there|dropped out/);
  expect(outcome).toMatch(/Mount it again|is connected|Connect the store again/);
  expect(outcome).not.toMatch(/[A-Z]{5,}:|socket/);
  const { slots, whole } = await savedSlots(id);
  expect(outcome).toContain(`${slots} of 240 slots were saved`);
  expect(whole).toBe(true);
  await page.goto(`/trials/${id}`);
  await expect(page.getByText('slots were saved').first()).toBeVisible();
});
