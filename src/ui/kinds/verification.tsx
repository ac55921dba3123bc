'use client';
import { VerificationFigures } from '../storage/VerificationFigures';
import type { KindView } from './kind';
import { StorageLine, StorageLive, StorageResult } from './shared/storage';

export const verification: KindView<'verification'> = {
  Line: StorageLine,
  Live: StorageLive,
  Result: ({ page }) => {
    const { summary, settings, status } = page.trial;
    return (
      <StorageResult
        page={page}
        title={status === 'paused' ? 'This verification is paused' : undefined}
        further=" Nothing was written."
        decides={false}
      >
        <VerificationFigures result={summary} settings={settings} files={page.checked} />
      </StorageResult>
    );
  },
  possible: ({ trial: { status, subject, settings } }) => ({
    goesOn: status !== 'done' && subject.volumeId !== null,
    again:
      subject.volumeId === null
        ? null
        : {
            kind: 'verification',
            volumeId: subject.volumeId,
            folder: settings.folder,
            listId: settings.list.id,
          },
    inSeries: false,
    record: 'Files',
    goes: 'The record of this verification is removed. The files and their hash list stay.',
    home: '/storage/copies',
  }),
};
