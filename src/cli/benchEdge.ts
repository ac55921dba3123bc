import { performance } from 'node:perf_hooks';
import { briefInput } from '@/core/asked/briefs';
import { timelineSaveInput } from '@/core/asked/timelines';
import { trialInputs } from '@/core/asked/trials';
import { refusalOf } from '@/core/asked/guard';
import type { ISchema } from '@/core/edge/strict';
import type { TrialKind } from '@/core/kinds/kinds';
import { greatest } from '@/core/stats/extremes';
import { median } from '@/core/stats/quantiles';
import { endOf, type Timeline } from '@/core/timeline/model';
import { getTimeline } from '@/db/queries/timelines';
import { demoTimelineId } from '@/demo/timelines';
import { thisRigId } from '@/engine/rig';
import { checked, parseJson } from '@/server/platform/http';
import type { BenchRow } from './bench';
import { trialBodies } from './benchLists';
import { withPage } from './benchPage';

const times = 200;
const mostMs = 2;
const manyItems = 1_000;

/** As many cameras and places as a brief takes. */
const fullBrief = {
  name: 'Tidewrack',
  question: 'What plays from where?',
  cameras: Array.from({ length: 30 }, (_, index) => ({
    clipId: `clip-${index}`,
    name: `Camera ${index}`,
    hoursPerDay: 2,
  })),
  days: 12,
  places: Array.from({ length: 40 }, (_, index) => ({
    rigId: 'rig-bench',
    volumeId: `volume-${index}`,
    price: 900,
  })),
};

/** What the guard, the reading of the JSON and the check by its schema take of the demo's own bodies, without the way there. */
export async function edgeRows(mediaFolder: string): Promise<BenchRow[]> {
  return withPage(
    mediaFolder,
    () => Promise.resolve(),
    () => Promise.resolve(),
    async ({ address }) => {
      const { host } = new URL(address);
      const asked = new Map<string, readonly [string, ISchema<object>]>();
      for (const [kind, body] of Object.entries(await trialBodies(await thisRigId())))
        asked.set(`a trial of ${kind}`, [JSON.stringify(body), schemaOf(kind as TrialKind, body)]);
      const reel = await getTimeline(demoTimelineId);
      if (!reel) throw new Error('The demo has no timeline.');
      const saved = (document: object) => JSON.stringify({ document, revision: 1 });
      asked.set('the demo’s timeline', [saved(reel.document), timelineSaveInput]);
      asked.set(`a timeline of ${manyItems} items, for each 100`, [
        saved(longer(reel.document, manyItems)),
        timelineSaveInput,
      ]);
      asked.set('a brief with all that it may have', [JSON.stringify(fullBrief), briefInput]);
      const rows: BenchRow[] = [];
      for (const [name, [text, schema]] of asked) {
        const taken: number[] = [];
        for (let round = 0; round < times; round++) {
          const begun = performance.now();
          const refusal = refusalOf(
            {
              method: 'POST',
              path: '/api/trials',
              isPage: false,
              host,
              origin: address,
              fetchSite: 'same-origin',
              contentType: 'application/json',
            },
            new Set([host]),
          );
          if (refusal) throw new Error(refusal.message);
          checked(parseJson(text), schema);
          taken.push(performance.now() - begun);
        }
        // What has no bound but its size is told by its parts.
        const value = median(taken) / (name.includes('for each 100') ? manyItems / 100 : 1);
        rows.push({
          name: `checking ${name}`,
          value,
          unit: 'ms',
          target: `at most ${mostMs}`,
          met: value <= mostMs,
          note: `${text.length} bytes; the first ${(taken[0] as number).toFixed(1)}`,
        });
      }
      return rows;
    },
  );
}

/** A timeline whose first track goes on with its items again and again. */
function longer(timeline: Timeline, items: number): Timeline {
  const [track, ...others] = timeline.tracks;
  const first = track?.items ?? [];
  const length = greatest(first.map(endOf), 1);
  const many = Array.from({ length: items }, (_, index) => {
    const item = first[index % first.length] as (typeof first)[number];
    const round = Math.floor(index / first.length);
    return { ...item, id: `${item.id}-${index}`, start: item.start + round * length };
  });
  return { ...timeline, tracks: track ? [{ ...track, items: many }, ...others] : [] };
}

function schemaOf(kind: TrialKind, body: object): ISchema<object> {
  const input = trialInputs[kind];
  return 'resolve' in input && !('fields' in input)
    ? (input.resolve({ value: body }) as ISchema<object>)
    : input;
}
