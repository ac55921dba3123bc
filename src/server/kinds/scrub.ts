import type { InferType } from '@/core/edge/strict';
import { scrubInput, type ScrubSettings } from '@/core/kinds/scrub';
import { getGesture } from '@/db/queries/timelines';
import { decodingOf } from '../decode';
import { RequestError } from '../errors';
import { queueTest, targetOf } from '../timelineTrials';
import type { KindServer } from './kind';
import { linesCsv } from './lines';

export async function recordedGesture(gestureId: string) {
  const row = await getGesture(gestureId);
  if (!row) throw new RequestError('gesture-gone', {}, 'gestureId');
  return { kind: 'recorded' as const, gestureId: row.id, name: row.name };
}

/** Queues a scrub trial for each gesture asked for. Returns the ids. */
export async function startScrub(input: InferType<typeof scrubInput>): Promise<string[]> {
  const timelineId = await targetOf(input);
  const { scale, threads, warm, seed, speed } = input;
  const decoded = await decodingOf(input.decodeOn);
  const ids: string[] = [];
  for (const kind of input.gestures) {
    const gesture: ScrubSettings['gesture'] =
      kind === 'recorded' ? await recordedGesture(input.gestureId ?? '') : { kind, seed, speed };
    ids.push(
      await queueTest(timelineId, { kind: 'scrub', scale, threads, warm, gesture, ...decoded }, input, input),
    );
  }
  return ids;
}

export const scrub: KindServer<'scrub'> = {
  start: async (input) => startScrub(input),
  csv: ({ record }) => linesCsv((record?.requests ?? []).map((request) => ({ ...request }))),
};
