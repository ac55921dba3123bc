import { join } from 'node:path';
import { type DecodeCores } from '@/core/decode/result';
import { answerOf, type DecodeKind } from '@/core/kinds/kinds';
import { refusedNote } from '@/core/media/faults';
import type { DecodeTrial, TrialRow } from '@/db/kinds';
import { getClip, getPacketTable } from '@/db/queries/clips';
import type { DecodeSpec, FromDecode } from '@/engine/decode/spec';
import { EngineError } from '@/engine/errors';
import { noteClipFaults } from '../../../library/clipFaults';
import { plainFinding } from '../../../trials/findings';
import type { KindRunner, TrialEnd, TrialRun } from '../../trialRun';
import type { DecodeProgress, DecodeRecord } from '@/core/kinds/shared/decode';

const nothing: DecodeRecord = { passes: [], costs: null, seeks: [], memoryBytes: null, steps: [] };

/**
 * A kind that decodes: on each of some cores in a process of its own, the first pinned to one.
 * @param summaryOf what was measured, null where it was not enough
 */
export function decodeKind<Kind extends DecodeKind>(
  parts: readonly DecodeCores[],
  summaryOf: (
    trial: TrialRow<Kind>,
    record: DecodeRecord,
  ) => Promise<TrialRow<Kind>['summary']> | TrialRow<Kind>['summary'],
): KindRunner<Kind> {
  return {
    async prepare(row) {
      const trial = row as unknown as DecodeTrial;
      const { volumeId, ...spec } = await sourceOf(trial);
      return {
        volumeIds: [volumeId],
        measure: async (run) => ({
          end: await measure(run, trial, spec, parts),
        }),
      };
    },
    judge: async (trial, { outcome }) => {
      const summary = trial.record ? await summaryOf(trial, trial.record) : null;
      return {
        summary,
        outcome:
          outcome ??
          (summary &&
            answerOf(plainFinding({ ...trial, summary } as unknown as TrialRow)) +
              refusedNote(trial.record?.faults)),
      };
    },
  };
}

async function measure(
  run: TrialRun<DecodeKind>,
  { clipId }: DecodeTrial,
  spec: Omit<DecodeSpec, 'cores'>,
  parts: readonly DecodeCores[],
): Promise<TrialEnd> {
  let record = nothing;
  const keep = (change: Partial<DecodeRecord>) => {
    record = { ...record, ...change };
    run.keep(record);
  };
  const onMessage = (message: FromDecode, part: number) => {
    switch (message.type) {
      case 'progress': {
        const progress = shareOf(message.progress, part, parts.length);
        run.reach(progress);
        run.tell(progress);
        break;
      }
      case 'pass':
        keep({ passes: [...record.passes, message.pass] });
        break;
      case 'costs': {
        const { type, costUs } = message.costs;
        keep({ costs: { type: [...type], costUs: [...costUs].map(Math.round) } });
        break;
      }
      case 'seeks':
        keep({ seeks: message.seeks });
        break;
      case 'memory':
        keep({ memoryBytes: message.bytes });
        break;
      case 'faults':
        keep({ faults: message.faults });
        run.save(() => noteClipFaults(clipId, message.faults));
        break;
      case 'streams':
        keep({ steps: [...record.steps, message.step] });
        break;
      case 'failed':
      case 'finished':
        break;
    }
  };
  let end: TrialEnd = { kind: 'done' };
  for (const [part, cores] of parts.entries()) {
    if (end.kind !== 'done' || run.wish !== null) break;
    end = await run.perform(
      'decode',
      { ...spec, cores },
      { pinned: cores === 'one', onMessage: (message) => onMessage(message, part) },
    );
  }
  return run.wish === 'cancel' ? { kind: 'cancelled' } : end;
}

/** The parts follow each other and take about as long: time left counts those still to come. */
function shareOf(told: DecodeProgress, part: number, parts: number): DecodeProgress {
  const msLeft =
    told.msLeft === null
      ? null
      : told.msLeft + (parts - part - 1) * (told.msLeft / Math.max(0.05, 1 - told.share));
  return { ...told, share: (part + told.share) / parts, msLeft };
}

async function sourceOf(
  trial: DecodeTrial,
): Promise<Omit<DecodeSpec, 'cores'> & { readonly volumeId: string }> {
  const { clipId } = trial;
  const [clip, packets] =
    clipId === null ? [null, null] : await Promise.all([getClip(clipId), getPacketTable(clipId)]);
  if (!clip?.format || !clip.setup || !packets || clip.status !== 'ready')
    throw new EngineError('clip-gone-or-unplayable');
  return {
    path: join(clip.volumePath, clip.path),
    setup: clip.setup,
    format: clip.format,
    packets,
    settings: trial.settings,
    volumeId: clip.volumeId,
  };
}
