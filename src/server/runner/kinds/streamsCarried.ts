import { answerOf } from '@/core/kinds/kinds';
import { carriedStreams, expectedRate } from '@/core/storage/model';
import { requiredRate } from '@/core/storage/required';
import { summariseStreams } from '@/core/storage/streams';
import type { TrialRow } from '@/db/kinds';
import { latestThroughput } from '@/db/queries/trials';
import type { StorageSpec } from '@/engine/storage/spec';
import { loadBlocks } from '../../trials/blocks';
import { plainFinding } from '../../trials/findings';
import { retryWhileAway } from '../shared/retryWhileAway';
import type { KindRunner } from '../trialRun';
import { accessOf, clipSource, performStorage, plainConditions, removeOwnFiles } from './shared/storage';

export const streamsCarried: KindRunner<'streams-carried'> = {
  async prepare(trial) {
    const { settings, volumeIds, subject } = trial;
    const spec: StorageSpec = {
      kind: 'streams-carried',
      trialId: trial.id,
      volume: await accessOf(subject.volumeId),
      settings,
      source: await clipSource(settings.clipId),
    };
    return {
      volumeIds,
      conditions: plainConditions,
      measure: async (run) => {
        let streams: readonly number[] = [];
        return {
          end: await performStorage(run, spec, trial, (step) => {
            streams = [...streams, step];
            run.keep({ streams });
          }),
        };
      },
    };
  },
  judge: async (trial, { outcome }) => {
    const summary = await summaryOf(trial);
    return { summary, outcome: outcome ?? (summary && answerOf(plainFinding({ ...trial, summary }))) };
  },
  clearAway: removeOwnFiles,
};

async function summaryOf(
  trial: TrialRow<'streams-carried'>,
): Promise<TrialRow<'streams-carried'>['summary']> {
  const { subject, settings, record } = trial;
  const blocks = await retryWhileAway(() => loadBlocks(trial.id));
  if (blocks.length === 0 || !subject.clip) return null;
  return summariseStreams(
    blocks,
    record?.streams ?? [],
    subject.clip,
    (1e6 * subject.clip.format.rate.den) / subject.clip.format.rate.num,
    settings.mostStreams,
    await rateBeside(trial),
  );
}

/** The rate that arithmetic uses: the volume's last measured sequential read, else its stand-in's model. */
async function rateBeside({ rigId, subject: { volumeId, standIn, clip } }: TrialRow<'streams-carried'>) {
  const measured = (await retryWhileAway(() => latestThroughput(rigId))).find(
    (row) => row.subject.volumeId === volumeId && row.settings.test === 'sequential-read',
  );
  const model = standIn && expectedRate(standIn, false, 2 ** 20);
  const sustained = measured?.summary?.read?.sustained;
  if (sustained !== undefined)
    return { bytesPerSecond: sustained, from: 'measured' as const, limit: model?.limit ?? null };
  if (!standIn || !model || !clip) return null;
  const { required } = requiredRate(clip, { streams: 1, speed: 1, margin: 0 });
  return {
    ...model,
    from: 'model' as const,
    streams: carriedStreams(
      (streams) => expectedRate(standIn, false, 2 ** 20, true, streams).bytesPerSecond,
      required,
    ),
  };
}
