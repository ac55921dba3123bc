import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { trialKinds, type TrialKind } from '@/core/kinds/kinds';
import { median } from '@/core/stats/quantiles';
import { closeConnection, connection } from '@/db/client';
import { listClips } from '@/db/queries/clips';
import { getRig } from '@/db/queries/rigs';
import { getTrial } from '@/db/queries/trials';
import { listVolumes } from '@/db/queries/volumes';
import { thisRigId } from '@/engine/rig';
import type { TrialListPage } from '@/server/trials/trialList';
import type { BenchRow } from './bench';
import { askTrial, untilEnded, withPage } from './benchPage';

const seeded = 100_000;
const repeats = 7;
const mostMs = 200;
/** What the bench writes on a volume lies in here, and goes again. */
const ownFolder = 'bench-lists';
/** Ids of seeded trials begin so. */
const benchMark = 'bench-';

/** One short trial of each kind, on the demo's clips and volumes. */
export async function trialBodies(rigId: string): Promise<Partial<Record<TrialKind, object>>> {
  const clips = await listClips(rigId);
  const clip = clips.find(({ path, volumeStandIn }) => path.includes('proxy') && volumeStandIn === null);
  const volumes = (await listVolumes(rigId)).filter(
    ({ facts, standIn }) => facts.writable && standIn === null,
  );
  const target = volumes.find(({ id }) => id !== clip?.volumeId) ?? volumes[0];
  const device = (await getRig(rigId))?.devices?.find(({ usable }) => usable);
  if (!clip || !target) throw new Error('The demo has no proxy, or no volume to write to.');
  const clipId = clip.id;
  return {
    playback: { clipId, scale: 'quarter' },
    'self-check': {},
    scrub: { clipId, gestures: ['step-forward'], scale: 'half' },
    ramp: { clipId, family: 'streams', most: 2, seconds: 1, scales: ['quarter'] },
    calibration: { clipId },
    'decode-rate': { clipIds: [clipId], passSeconds: 0.2, passes: 1 },
    ...(device && { 'decode-support': { clipIds: [clipId], deviceIds: [device.id], passSeconds: 0.2 } }),
    'decode-streams': { clipId, scale: 'quarter', seconds: 1, mostStreams: 2 },
    throughput: {
      volumeId: target.id,
      test: 'sequential-read',
      blockBytes: 2 ** 20,
      bytes: 2 ** 24,
      seconds: 5,
      repeats: 1,
    },
    'streams-carried': { clipId, seconds: 2, mostStreams: 2 },
    copy: {
      volumeId: clip.volumeId,
      folder: clip.path.split('/').slice(0, -1).join('/'),
      destinations: [{ volumeId: target.id, folder: `${ownFolder}/copy` }],
    },
    renditions: {
      clipIds: [clipId],
      presetId: 'mjpeg',
      raster: 'half',
      volumeId: target.id,
      folder: ownFolder,
    },
  };
}

/** Measures one trial of each kind. Returns their ids. */
async function measureEach(address: string): Promise<Map<TrialKind, string>> {
  const ids = new Map<TrialKind, string>();
  for (const [kind, body] of Object.entries(await trialBodies(await thisRigId())))
    ids.set(kind as TrialKind, await askTrial(address, { kind, ...body }));
  for (const id of ids.values()) await untilEnded(id);
  return ids;
}

/** Fills the database with trials like these, an hour apart, under names and with ends of all sorts. */
async function seed(ids: readonly string[]): Promise<void> {
  await connection().pool.query(
    `insert into trials (id, kind, rig_id, clip_id, volume_ids, timeline_id, subject, settings, status, outcome, detail,
       conditions, load, progress, summary, origin, simulated, demo, created_at, started_at, ended_at, name, how,
       volume_names, grade, doubt)
     select $1 || n, t.kind, t.rig_id, t.clip_id, t.volume_ids, t.timeline_id, t.subject, t.settings,
       case when n % 50 = 0 then 'failed' else 'done' end, t.outcome, t.detail, t.conditions, t.load, t.progress,
       t.summary, t.origin, t.simulated, t.demo, t.created_at - n * interval '1 hour',
       t.started_at - n * interval '1 hour', t.ended_at - n * interval '1 hour', t.name || ' take ' || n % 997, t.how,
       t.volume_names,
       case when t.kind = 'playback' then (array['solid', 'workable', 'rough', 'stalled'])[1 + n / 50 % 4] end,
       case when n % 9 = 0 then 'disturbed' end
     from generate_series(1, $3) n join (
       select *, row_number() over (order by id) - 1 as place from trials where id = any($2)
     ) t on t.place = n % cardinality($2::text[])`,
    [benchMark, ids, seeded],
  );
  await connection().pool.query('vacuum analyze trials');
}

/** Lists, filters and results over many trials of all kinds, through the route and to the last byte. */
export async function listRows(mediaFolder: string): Promise<BenchRow[]> {
  return withPage(
    mediaFolder,
    () => Promise.resolve(),
    () => Promise.resolve(),
    async ({ address }) => {
      const ids = await measureEach(address);
      await seed([...ids.values()]);
      const rows: BenchRow[] = [];
      const timed = async (name: string, path: string, told: (body: unknown) => string) => {
        const times: number[] = [];
        let body: unknown;
        for (let round = 0; round < repeats; round++) {
          const begun = performance.now();
          const answer = await fetch(`${address}${path}`);
          body = await answer.json();
          times.push(performance.now() - begun);
          if (!answer.ok) throw new Error(`${path} was refused: ${JSON.stringify(body)}`);
        }
        const value = median(times);
        const note = `${told(body)}; median of ${repeats}, slowest ${Math.max(...times).toFixed(0)}`;
        rows.push({ name, value, unit: 'ms', target: `at most ${mostMs}`, met: value <= mostMs, note });
      };
      const found = (body: unknown) => {
        const { total, trials } = body as TrialListPage;
        if (trials.length === 0) throw new Error('A list that was to be timed is empty.');
        return `${trials.length} of ${total}`;
      };
      const lists: readonly (readonly [string, string])[] = [
        ['newest', ''],
        ['a page in the middle', 'page=1000'],
        ['the last page', 'page=2000'],
        ['of 500', 'size=500'],
        ['by kind', 'kind=scrub'],
        ['by part of a name', 'subject=take 77'],
        ['by two letters of a name', 'subject=ke'],
        ['by volume', `volume=${(await getTrial(ids.get('throughput') ?? ''))?.volumeIds[0] ?? ''}`],
        ['by rig', `rig=${await thisRigId()}`],
        ['by clip', `clip=${(await getTrial(ids.get('playback') ?? ''))?.clipId ?? ''}`],
        ['by grade', 'grade=rough'],
        ['disturbed', 'doubt=yes'],
        ['that failed', 'status=failed'],
        ['of one night', `since=${new Date(Date.now() - 43_200_000).toISOString()}`],
        ['by kind, grade and name', 'kind=playback&grade=rough,stalled&subject=take 5&doubt=no'],
      ];
      for (const [name, query] of lists)
        await timed(`list of trials, ${seeded} kept: ${name}`, `/api/trials?${query}`, found);
      for (const kind of trialKinds) {
        const id = ids.get(kind);
        if (id !== undefined)
          await timed(`result of a trial among ${seeded}: ${kind}`, `/api/trials/${id}`, (body) => {
            const { status } = (body as { readonly trial: { readonly status: string } }).trial;
            return status;
          });
      }
      await connection().pool.query('delete from trials where id like $1 or id = any($2)', [
        `${benchMark}%`,
        [...ids.values()],
      ]);
      for (const { path } of await listVolumes(await thisRigId()))
        await rm(join(path, ownFolder), { recursive: true, force: true });
      await closeConnection();
      return rows;
    },
  );
}
