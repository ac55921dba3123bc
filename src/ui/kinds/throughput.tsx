'use client';
import { ThroughputFigures } from '../storage/ThroughputFigures';
import type { KindView } from './kind';
import { StorageLine, StorageLive, storagePossible, StorageResult } from './shared/storage';

export const throughput: KindView<'throughput'> = {
  Line: StorageLine,
  Live: StorageLive,
  Result: ({ page }) => {
    const { trial } = page;
    return (
      <StorageResult page={page}>
        {trial.summary && <ThroughputFigures trial={trial} summary={trial.summary} />}
      </StorageResult>
    );
  },
  possible: storagePossible,
};
