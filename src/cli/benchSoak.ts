import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { median } from '@/core/stats/quantiles';
import { deliveries } from '@/core/tasks/exportCodecs';
import { listClips } from '@/db/queries/clips';
import { listVolumes } from '@/db/queries/volumes';
import { thisRigId } from '@/engine/rig';
import { requireTrial } from '@/server/platform/trialQueue';
import type { BenchRow } from './bench';
import { askTrial, untilEnded, withPage } from './benchPage';
import { home } from './home';

/** Length of the soak; a shorter one shows only that it works. */
const minutes = Number(process.env.NAVVY_BENCH_SOAK_MINUTES ?? '30');
/** Memory is looked at from so long after the begin on: until then all that is needed once is there, s. */
const settledS = Math.min(120, minutes * 20);
const mostGrownBytes = 50e6;
const mostNextMs = 300;
const queued = 5;

/** Memory in use by the server and the runner, bytes. */
function residentBytes(): number {
  return ['server', 'runner'].reduce((sum, name) => {
    const pid = readFileSync(join(home, `${name}.pid`), 'utf8').trim();
    const told = /^VmRSS:\s+(\d+) kB/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1];
    return sum + Number(told ?? 0) * 1024;
  }, 0);
}

/** Tasks one behind the other, and a soak of half an hour. */
export async function soakRows(mediaFolder: string): Promise<BenchRow[]> {
  return withPage(
    mediaFolder,
    () => Promise.resolve(),
    () => Promise.resolve(),
    async ({ address }) => {
      const rigId = await thisRigId();
      const clip = (await listClips(rigId)).find(
        ({ path, status, volumeStandIn }) =>
          status === 'ready' && path.includes('proxy') && volumeStandIn === null,
      );
      const target = (await listVolumes(rigId)).find(
        ({ facts, standIn }) => facts.writable && standIn === null,
      );
      if (!clip || !target) throw new Error('The demo has no proxy, or no volume to write to.');
      return [
        await nextStartRow(address, { clipId: clip.id, targetVolumeId: target.id }),
        await soakRow(address, clip.id),
      ];
    },
  );
}

async function nextStartRow(address: string, asked: object): Promise<BenchRow> {
  const body = { kind: 'export', ...deliveries[0]?.choice, ...asked, to: 12 };
  const ids: string[] = [];
  for (let count = 0; count < queued; count++) ids.push(await askTrial(address, body));
  for (const id of ids) await untilEnded(id);
  const rows = (await Promise.all(ids.map((id) => requireTrial(id)))).sort(
    (a, b) => Number(a.startedAt) - Number(b.startedAt),
  );
  const between = rows.slice(1).map((row, at) => Number(row.startedAt) - Number(rows[at]?.endedAt));
  return {
    name: "from a task's end to the next start",
    value: median(between),
    unit: 'ms',
    target: `at most ${mostNextMs}`,
    met: between.every((ms) => ms <= mostNextMs),
    note: `${between.length} times, ${Math.min(...between)} to ${Math.max(...between)}`,
  };
}

async function soakRow(address: string, clipId: string): Promise<BenchRow> {
  const work = { kind: 'playback', clipId, scale: 'full' };
  const id = await askTrial(address, { kind: 'soak', minutes, work });
  const begun = Date.now();
  let [first, last] = [0, 0];
  await untilEnded(id, () => {
    if (Date.now() - begun < settledS * 1000) return;
    last = residentBytes();
    first ||= last;
  });
  const { status, summary } = await requireTrial(id, ['soak']);
  if (status !== 'done' || !summary) throw new Error(`The bench soak ended ${status}.`);
  const ofProcess = (summary.lastPeakBytes ?? 0) - (summary.firstPeakBytes ?? 0);
  const grown = last - first + ofProcess;
  return {
    name: `a soak of ${minutes} minutes grows`,
    value: grown / 1e6,
    unit: 'MB',
    target: `under ${mostGrownBytes / 1e6}`,
    met: grown < mostGrownBytes,
    note: `${((last - first) / 1e6).toFixed(1)} server and runner, ${(ofProcess / 1e6).toFixed(1)} its process; ${summary.done} passes, ${summary.dropped} of ${summary.frames} slots dropped`,
  };
}
