'use client';
import Link from 'next/link';
import type { ComponentType, ReactNode } from 'react';
import type { StorageKind } from '@/core/kinds/kinds';
import type { StorageTrial, TrialRow } from '@/db/kinds';
import type { TrialPage } from '@/server/trials/trialPage';
import { Simulated } from '../../parts/Simulated';
import { LiveStorageTrial } from '../../storage/LiveStorageTrial';
import { StorageConditionsList } from '../../storage/StorageConditionsList';
import { settingsWords, storageAnswer } from '../../storage/words';
import { ResultFrame } from '../../trial/ResultFrame';
import type { Possible } from '../../trial/TrialActions';
import type { KindView } from '../kind';

/** Which volume, and how it is measured. */
export function StorageLine({ trial }: { trial: StorageTrial }) {
  const { volumeId, volumeName, standIn, clip } = trial.subject;
  return (
    <>
      {volumeId ? (
        <Link
          prefetch={false}
          href={`/storage/volumes/${volumeId}`}
          className="text-base font-semibold text-ink underline decoration-edge underline-offset-4"
        >
          {volumeName}
        </Link>
      ) : (
        <span className="text-base font-semibold text-ink">{volumeName}</span>
      )}
      {standIn && <Simulated model={standIn} />}
      <span>{settingsWords(trial.settings)}</span>
      {clip && <span className="break-all">{clip.path}</span>}
    </>
  );
}

export function StorageLive({ page }: { page: TrialPage<StorageKind> }) {
  return <LiveStorageTrial trial={page.trial} />;
}

/** The result of a storage trial; its kind puts its pictures and its numbers into it. */
export function StorageResult({
  page,
  title,
  further,
  decides = true,
  children,
}: {
  page: TrialPage<StorageKind>;
  title?: string | undefined;
  further?: string;
  /** Somebody may decide by its figures of speed. */
  decides?: boolean;
  children: ReactNode;
}) {
  return (
    <ResultFrame
      page={page}
      answer={storageAnswer(page.trial)}
      title={title}
      decides={decides}
      {...(further === undefined ? {} : { further })}
    >
      {children}
      <StorageConditionsList trial={page.trial} />
    </ResultFrame>
  );
}

/** What can be done with a measurement of a volume. */
function storagePossible({ trial }: TrialPage<StorageKind>): Possible {
  const {
    settings,
    subject: { volumeId },
  } = trial;
  return {
    again: volumeId === null ? null : { ...settings, volumeId },
    record: 'Raw record',
    goes: 'The result and its record of requests are removed. This cannot be undone.',
    home: volumeId ? `/storage/volumes/${volumeId}` : '/storage',
  };
}

/** A kind that measures a volume, by what it shows of its summary. */
export function volumeView<Kind extends Exclude<StorageKind, 'copy' | 'verification'>>(
  Figures: ComponentType<{ trial: TrialRow<Kind>; summary: NonNullable<TrialRow<Kind>['summary']> }>,
): KindView<Kind> {
  const view: KindView<StorageKind> = {
    Line: StorageLine,
    Live: StorageLive,
    Result: ({ page }) => {
      const { summary } = page.trial;
      return (
        <StorageResult page={page}>
          {summary && <Figures trial={page.trial as never} summary={summary as never} />}
        </StorageResult>
      );
    },
    possible: storagePossible,
  };
  return view as unknown as KindView<Kind>;
}
