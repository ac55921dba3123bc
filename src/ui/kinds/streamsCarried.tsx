'use client';
import { StreamsFigures } from '../storage/StreamsFigures';
import type { KindView } from './kind';
import { StorageLine, StorageLive, storagePossible, StorageResult } from './shared/storage';

export const streamsCarried: KindView<'streams-carried'> = {
  Line: StorageLine,
  Live: StorageLive,
  Result: ({ page }) => {
    const { trial } = page;
    return (
      <StorageResult page={page}>
        {trial.summary && <StreamsFigures trial={trial} summary={trial.summary} />}
      </StorageResult>
    );
  },
  possible: storagePossible,
};
