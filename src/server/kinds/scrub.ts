import type { InferType } from '@/core/edge/strict';
import { scrubInput, type ScrubSettings } from '@/core/kinds/scrub';
import { getGesture } from '@/db/queries/timelines';
import { decodingOf } from '../library/decode';
import { RequestError } from '../platform/errors';
import { queueTest, targetOf } from '../timelines/timelineTrials';
import type { KindServer } from './kind';
import { linesCsv } from './shared/lines';

async function recordedGesture(gestureId: string) {
  const row = await getGesture(gestureId);
  if (!row) throw new RequestError('gesture-gone', {}, 'gestureId');
  return { kind: 'recorded' as const, gestureId: row.id, name: row.name };
}

/** Queues a scrub trial for each gesture asked for. Returns the ids. */
export async function startScrub(input: InferType<typeof scrubInput>): Promise<string[]> {
  const { scale, threads, warm, depth, fields, seed, speed } = input;
  // What may be refused comes before anything is kept.
  const decoded = await decodingOf(input.decodeOn);
  const gestures: ScrubSettings['gesture'][] = [];
  for (const kind of input.gestures)
    gestures.push(kind === 'recorded' ? await recordedGesture(input.gestureId ?? '') : { kind, seed, speed });
  const timelineId = await targetOf(input);
  const ids: string[] = [];
  for (const gesture of gestures) {
    ids.push(
      await queueTest(
        timelineId,
        { kind: 'scrub', scale, threads, warm, depth, fields, gesture, ...decoded },
        input,
        input,
      ),
    );
  }
  return ids;
}

export const scrub: KindServer<'scrub'> = {
  start: async (input) => startScrub(input),
  csv: ({ record }) => linesCsv((record?.requests ?? []).map((request) => ({ ...request }))),
};
