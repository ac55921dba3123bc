'use client';
import { CopyFigures } from '../storage/CopyFigures';
import type { KindView } from './kind';
import { StorageLine, StorageLive, StorageResult } from './shared/storage';

export const copy: KindView<'copy'> = {
  Line: StorageLine,
  Live: StorageLive,
  Result: ({ page }) => {
    const { summary, settings, status } = page.trial;
    return (
      <StorageResult
        page={page}
        title={status === 'paused' ? 'This copy is paused' : undefined}
        further=" Files that are whole stay where they are; half-written ones were removed."
        decides={false}
      >
        <CopyFigures result={summary} settings={settings} files={page.files} />
      </StorageResult>
    );
  },
  possible: ({ trial: { status, subject } }) => ({
    goesOn: status !== 'done' && subject.volumeId !== null,
    record: 'Files',
    goes: 'The record of this copy is removed. The copied files and their hash lists stay.',
    home: '/storage/copies',
  }),
};
