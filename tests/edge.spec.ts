import { readdirSync, readFileSync, statSync } from 'node:fs';
import { request as ask } from 'node:http';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import pg from 'pg';
import { routes, type RouteFacts, type RouteName } from '../src/core/asked/routes';
import {
  least,
  most,
  sampleBundle,
  sampleLook,
  samplePlan,
  sampleRig,
  sampleTimeline,
  sampleTrial,
  wild,
} from '../src/core/formats/testing/bundleSamples';
import { trialHref, trialKinds } from '../src/core/kinds/kinds';
import { trialInputs } from '../src/core/asked/trials';
import { bodyTypeOf } from '../src/core/asked/guard';
import { keptText } from '../src/db/testing/keptText';
import { hostileIds, mutations, sampleOf, type Known, type Told } from './hostile';
import { buildTestLoad, ensureVolume, pidOf, query } from './helpers';

const address = process.env.NAVVY_ADDRESS ?? '';
const json = { 'content-type': 'application/json' };
const all = Object.entries(routes) as [RouteName, RouteFacts][];
const parts = (name: string) => name.split(' ') as [method: string, path: string];
/** An address of a route with one id in all its places. */
const at = (path: string, id: string) => path.replace(/\{\w+\}/g, id);
/** Routes that go on answering until the page leaves. */
const streams: readonly RouteName[] = ['GET /api/events', 'GET /api/viewers/{id}'];

/** Asks with the headers as they are given, also those that a fetch would not send. */
function raw(method: string, path: string, headers: Record<string, string>, body = ''): Promise<number> {
  const { hostname, port } = new URL(address);
  return new Promise((resolve, reject) => {
    const asked = ask({ hostname, port, method, path, headers }, (response) => {
      response.resume();
      response.once('close', () => undefined);
      resolve(response.statusCode ?? 0);
      asked.destroy();
    });
    asked.once('error', reject);
    asked.end(body);
  });
}

test('the table of routes names every route that there is, and no other', () => {
  const folder = join('src', 'app', 'api');
  const found = (readdirSync(folder, { recursive: true }) as string[])
    .map((name) => join(folder, name))
    .filter((name) => statSync(name).isFile())
    .flatMap((file) => {
      const text = readFileSync(file, 'utf8');
      const handlers = [
        ...text.matchAll(/export (?:const|(?:async )?function) (GET|POST|PUT|PATCH|DELETE)\b/g),
      ];
      const named = [...text.matchAll(/= route\(\s*'(\w+) ([^']+)'/g)];
      expect(
        named.map(([, method]) => method),
        file,
      ).toEqual(handlers.map(([, method]) => method));
      const path = file
        .replace(join('src', 'app'), '')
        .replace(/\/route\.ts$/, '')
        .replace(/\[(\w+)\]/g, '{$1}');
      for (const [, , told] of named) expect(told, file).toBe(path);
      return named.map(([, method, told]) => `${method} ${told}`);
    });
  expect(found.toSorted()).toEqual(Object.keys(routes).toSorted());
});

test('no route answers another name, another site, or a body that pages of other sites can send', async () => {
  const { host } = new URL(address);
  for (const [name] of all) {
    const [method, path] = parts(name);
    const place = at(path, 'none');
    const type = { 'content-type': bodyTypeOf(place) };
    expect(
      await raw(method, place, { ...type, host: `tidewrack.example:${new URL(address).port}` }),
      name,
    ).toBe(421);
    expect(await raw(method, place, { ...type, host, origin: 'http://tidewrack.example' }), name).toBe(403);
    expect(await raw(method, place, { ...type, host, 'sec-fetch-site': 'cross-site' }), name).toBe(403);
    if (method === 'GET') continue;
    for (const other of [
      'text/plain',
      'application/x-www-form-urlencoded',
      'multipart/form-data; boundary=x',
    ])
      expect(await raw(method, place, { host, 'content-type': other }, '{}'), `${name} ${other}`).toBe(415);
    expect(await raw(method, place, { host }), name).toBe(415);
  }
  const page = { host: 'tidewrack.example' };
  expect(await raw('GET', '/trials', page)).toBe(421);
  expect(await raw('GET', '/trials', { host, 'sec-fetch-site': 'cross-site' })).toBe(200);
});

test('the runner’s own port is guarded as well', async () => {
  const [runner] = await query<{ picture_port: number }>('select picture_port from runners');
  const own = `http://127.0.0.1:${runner!.picture_port}/viewers/v-other`;
  const post = (headers: Record<string, string>) =>
    fetch(own, { method: 'POST', headers, body: '{"type":"stop"}' });
  expect((await post({ ...json, origin: 'http://tidewrack.example' })).status).toBe(403);
  expect((await post({ 'content-type': 'text/plain' })).status).toBe(415);
  expect((await fetch(own, { headers: { 'sec-fetch-site': 'cross-site' } })).status).toBe(403);
});

test('a body is counted while it is read, and its refusal is short', async () => {
  for (const [name, { most, takes }] of all) {
    const [method, path] = parts(name);
    if (method === 'GET' || takes === 'file' || (most ?? 0) > 64e6) continue;
    const longest = most ?? 1e6;
    const needs = takes !== undefined || 'body' in routes[name];
    if (!needs) continue;
    const piece = Buffer.alloc(1e6, 'x');
    let sent = 0;
    const body = new ReadableStream<Uint8Array>({
      pull(controller) {
        if (sent > longest + 5e6) controller.close();
        else controller.enqueue(piece);
        sent += piece.length;
      },
    });
    const answer = await fetch(`${address}${at(path, 'none')}`, {
      method,
      headers: json,
      body,
      duplex: 'half',
    } as RequestInit);
    expect(answer.status, name).toBe(413);
    expect((await answer.text()).length, name).toBeLessThan(300);
  }
});

test('answers carry what keeps scripts, frames and guesses out, and pages work with it', async ({ page }) => {
  const complaints: string[] = [];
  page.on('console', (message) => {
    if (/content security policy/i.test(message.text())) complaints.push(message.text());
  });
  for (const path of ['/trials', '/timelines', '/storage', '/media', '/rig', '/choose', '/compare']) {
    const answer = await page.goto(path);
    const headers = answer!.headers();
    const policy = headers['content-security-policy'] ?? '';
    expect(policy).toMatch(/script-src 'self' 'nonce-[\w+/=]{20,}'/);
    expect(policy.split(';').find((part) => part.includes('script-src'))).not.toContain('unsafe');
    expect(headers).toMatchObject({
      'x-content-type-options': 'nosniff',
      'x-frame-options': 'DENY',
      'referrer-policy': 'no-referrer',
    });
    await expect(page.getByRole('navigation').first()).toBeVisible();
  }
  expect(complaints).toEqual([]);
  const first = (await fetch(`${address}/trials`)).headers.get('content-security-policy');
  const second = (await fetch(`${address}/trials`)).headers.get('content-security-policy');
  expect(first).not.toBe(second);
  // What the page did not send does not run.
  await page.goto('/trials');
  await page.evaluate(() => {
    const script = document.createElement('script');
    script.textContent = 'window.ran = true';
    document.body.append(script);
  });
  expect(await page.evaluate(() => 'ran' in window)).toBe(false);
  expect(complaints.length).toBeGreaterThan(0);
});

/** Counts every row that is written, also what is taken back: told in no time. */
async function countWrites(client: pg.Client): Promise<void> {
  const { rows } = await client.query<{ name: string }>(
    "select tablename as name from pg_tables where schemaname = 'public' and tablename <> all($1)",
    [ownTables],
  );
  await client.query('create sequence walk_writes');
  await client.query(
    "create function walk_wrote() returns trigger language plpgsql as $$ begin perform nextval('walk_writes'); return null; end $$",
  );
  for (const { name } of rows)
    await client.query(
      `create trigger walk after insert or update or delete on "${name}" for each row execute function walk_wrote()`,
    );
}

async function writes(client: pg.Client): Promise<string> {
  return (await client.query<{ last_value: string }>('select last_value from walk_writes')).rows[0]!
    .last_value;
}

/** In which processes tell of themselves. */
const ownTables = ['runners', 'rigs'];

/** All that is kept, but for what processes tell of themselves. */
const kept = (client: pg.Client) => keptText(client, ownTables);

test('no field, id or type of body makes the server fail, and what is refused changes nothing', async ({
  page,
}) => {
  await ensureVolume(page);
  await buildTestLoad(page, 'TW_TEST_0001', 2);
  const [clip] = await query<{ id: string; volume_id: string; rig_id: string }>(
    "select c.id, c.volume_id, v.rig_id from clips c join volumes v on v.id = c.volume_id where c.status = 'ready' limit 1",
  );
  const [timeline] = await query<{ id: string; document: object; revision: number }>(
    'select id, document, revision from timelines limit 1',
  );
  const known: Known = {
    id: clip!.id,
    clipId: clip!.id,
    clipIds: [clip!.id],
    volumeId: clip!.volume_id,
    volumeIds: [clip!.volume_id],
    targetVolumeId: clip!.volume_id,
    rigId: clip!.rig_id,
    timelineId: timeline!.id,
    document: timeline!.document,
    revision: timeline!.revision,
    path: '/nowhere/at/all',
    work: { kind: 'playback', clipId: clip!.id, scale: 'quarter' },
    text: '{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[]}}',
  };
  const client = new pg.Client({ connectionString: process.env.NAVVY_DATABASE_URL! });
  await client.connect();
  // Nothing else writes meanwhile.
  process.kill(pidOf('runner'), 'SIGSTOP');
  const failed: string[] = [];
  await countWrites(client);
  let before = await kept(client);
  let written = await writes(client);
  let refusals = 0;
  const walked = new Set<Told>();
  const send = async (
    name: string,
    place: string,
    body: string | undefined,
    headers: Record<string, string> = json,
  ) => {
    const [method] = parts(name);
    const answer = await fetch(`${address}${place}`, { method, headers, body: body ?? null });
    const told = `${method} ${place.slice(0, 120)} ${body?.slice(0, 200) ?? ''}`;
    const text = answer.headers.get('content-type')?.includes('json') ? await answer.text() : '';
    if (answer.status >= 500) failed.push(`${answer.status} ${told}`);
    if (answer.status >= 400 && text.length > 1_000) failed.push(`${text.length} characters: ${told}`);
    const now = await writes(client);
    const after = now === written ? before : await kept(client);
    written = now;
    if (answer.status >= 400) {
      refusals++;
      if (after !== before) failed.push(`${answer.status}, and changed something: ${told}`);
    }
    before = after;
    return answer.status;
  };
  try {
    for (const [name] of all) {
      const [, path] = parts(name);
      if (streams.includes(name) || name.includes('/viewers/')) continue;
      if (path.includes('{'))
        for (const id of hostileIds) {
          const status = await send(name, at(path, id), name.startsWith('GET') ? undefined : '{}', {
            'content-type': bodyTypeOf(at(path, id)),
          });
          if (![400, 404, 405, 414, 431].includes(status))
            failed.push(`${status} for a thing that is not there: ${name} ${id.slice(0, 40)}`);
        }
    }
    for (const [name, { body, takes }] of all) {
      const [, path] = parts(name);
      if (name.includes('/viewers/') || takes === 'file') continue;
      if (takes === 'text') {
        for (const wrong of mutations({})) await send(name, path, JSON.stringify(wrong));
        continue;
      }
      const place = path.includes('/timelines/{id}') ? at(path, timeline!.id) : at(path, 'none0000ff');
      const asked: readonly (readonly [Told, object])[] =
        takes === 'json'
          ? Object.entries(trialInputs).map(([kind, input]) => [
              'builder' in input ? input.resolve({ value: {} }) : input,
              { kind },
            ])
          : body
            ? [[body, {}]]
            : [];
      for (const [input, more] of asked) {
        // What several routes take is looked through field by field at the first.
        if (walked.has(input)) continue;
        walked.add(input);
        const sample = { ...(sampleOf(input, known) as object), ...more };
        for (const wrong of mutations(sample)) await send(name, place, JSON.stringify(wrong));
      }
      if (body)
        for (const wrong of ['', '{', 'null', '[]', '"x"', '[1e999]', '['.repeat(5_000)])
          await send(name, place, wrong);
    }
  } finally {
    process.kill(pidOf('runner'), 'SIGCONT');
    await client.end();
  }
  if (failed.length > 0) console.log(failed.join('\n'));
  expect(failed.slice(0, 40)).toEqual([]);
  expect(refusals).toBeGreaterThan(3_000);
});

test('whatever a bundle may hold, and says to be of this rig, every page stands', async ({ page }) => {
  const [rig] = await query<{ id: string }>('select rig_id as id from runners');
  const trials = trialKinds.flatMap((kind) =>
    [least, most, wild(3), wild(5), wild(8)].map((choice, index) =>
      sampleTrial(kind, `held-${kind}-${index}`, choice, index === 4 ? {} : { status: 'done' }),
    ),
  );
  const choices = [least, most, wild(3), wild(5), wild(8)];
  const bundle = sampleBundle(trials, {
    rig: sampleRig({ id: rig!.id }),
    looks: [sampleLook('held-look')],
    timelines: [sampleTimeline('held-timeline', 'held-look')],
    plans: choices.map((choice, index) =>
      samplePlan(`held-plan-${index}`, choice, [trials[index]!.id, 'gone']),
    ),
  });
  const taken = await fetch(`${address}/api/bundles`, {
    method: 'POST',
    headers: json,
    body: JSON.stringify(bundle),
  });
  expect([taken.status, await taken.json()]).toEqual([
    200,
    expect.objectContaining({ trials: { added: trials.length, known: 0 } }),
  ]);
  const fails: string[] = [];
  const broken = async (path: string) => {
    const { status } = await fetch(`${address}${path}`);
    if (status >= 400) fails.push(`${status} ${path}`);
  };
  for (const trial of trials) {
    await broken(trialHref(trial));
    await broken(`/api/trials/${trial.id}`);
    await broken(`/api/trials/${trial.id}/csv`);
  }
  const lists = ['/trials', '/trials/tasks', '/storage', '/storage/copies', '/storage/ladder'];
  const more = [
    '/media',
    '/media/decode',
    '/media/support',
    '/media/renditions',
    '/timelines',
    '/timelines/tests',
    '/choose',
    '/rig',
    '/compare',
  ];
  const came = ['/timelines/held-timeline', ...choices.map((_, index) => `/trials/plans/held-plan-${index}`)];
  for (const path of [...lists, '/trials/plans', ...more, ...came]) await broken(path);
  await broken(`/compare?sides=p.held-plan-1`);
  await broken(
    `/compare?sides=${trials
      .slice(0, 5)
      .map(({ id }) => `t.${id}`)
      .join(',')}`,
  );
  if (fails.length > 0) console.log(fails.join('\n'));
  expect(fails).toEqual([]);
  // What the browser makes of them: of each kind one.
  const errors: string[] = [];
  page.on('pageerror', ({ message }) => errors.push(`${new URL(page.url()).pathname}: ${message}`));
  for (const trial of trials.filter(({ id }) => id.endsWith('3'))) {
    await page.goto(trialHref(trial));
    await expect(page.getByRole('main')).toBeVisible();
    if (await page.getByText('This page failed').isVisible()) errors.push(`${trialHref(trial)} is not shown`);
  }
  expect(errors).toEqual([]);
});
