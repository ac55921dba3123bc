import { summariseStaircase, summariseThroughput } from '@/core/storage/throughput';
import type { StorageSpec } from '@/engine/storage/spec';
import { loadBlocks } from '../../trials/blocks';
import { retryWhileAway } from '../shared/retryWhileAway';
import type { KindRunner } from '../trialRun';
import { accessOf, clipSource, performStorage, plainConditions, removeOwnFiles } from './shared/storage';

export const throughput: KindRunner<'throughput'> = {
  async prepare(trial) {
    const { settings, volumeIds, subject } = trial;
    const spec: StorageSpec = {
      kind: 'throughput',
      trialId: trial.id,
      volume: await accessOf(subject.volumeId),
      settings,
      source: settings.clipId === null ? null : await clipSource(settings.clipId),
    };
    return {
      volumeIds,
      conditions: plainConditions,
      measure: async (run) => ({
        end: await performStorage(run, spec, trial),
      }),
    };
  },
  judge: async (trial, { outcome }) => {
    const blocks = await retryWhileAway(() => loadBlocks(trial.id));
    const summarise = trial.settings.test === 'staircase' ? summariseStaircase : summariseThroughput;
    return { summary: blocks.length === 0 ? null : summarise(blocks), outcome };
  },
  clearAway: removeOwnFiles,
};
