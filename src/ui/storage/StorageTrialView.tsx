'use client';
import Link from 'next/link';
import type { StorageKind } from '@/core/kinds/kinds';
import type { StorageTrial } from '@/db/kinds';
import type { TrialPage } from '@/server/trialPage';
import { Simulated } from '../parts/Simulated';
import { ResultFrame, TrialLine } from '../trial/ResultFrame';
import { TrialActions } from '../trial/TrialActions';
import { useTrialPage } from '../trial/useTrialPage';
import { CopyFigures } from './CopyFigures';
import { LiveStorageTrial } from './LiveStorageTrial';
import { StorageConditionsList } from './StorageConditionsList';
import { StreamsFigures } from './StreamsFigures';
import { ThroughputFigures } from './ThroughputFigures';
import { settingsWords, storageAnswer } from './words';

/** A storage trial or copy on its page: while it waits or runs, and its result. */
export function StorageTrialView({ initial }: { initial: TrialPage<StorageKind> }) {
  const { page, isLive } = useTrialPage(initial);
  const { trial, plan } = page;
  const { volumeId, volumeName, standIn, clip } = trial.subject;
  return (
    <div className="flex max-w-6xl flex-col gap-5">
      <TrialLine plan={plan} actions={!isLive && <Actions page={page} />}>
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
      </TrialLine>
      {isLive ? <LiveStorageTrial trial={trial} /> : <Result page={page} />}
    </div>
  );
}

function Result({ page }: { page: TrialPage<StorageKind> }) {
  const { trial, files } = page;
  const isCopy = trial.kind === 'copy';
  return (
    <ResultFrame
      page={page}
      answer={storageAnswer(trial)}
      title={isCopy && trial.status === 'paused' ? 'This copy is paused' : undefined}
      further={isCopy ? ' Files that are whole stay where they are; half-written ones were removed.' : ''}
    >
      {trial.kind === 'throughput' && trial.summary && (
        <ThroughputFigures trial={trial} summary={trial.summary} />
      )}
      {trial.kind === 'streams-carried' && trial.summary && (
        <StreamsFigures trial={trial} summary={trial.summary} />
      )}
      {trial.kind === 'copy' && (
        <CopyFigures result={trial.summary} settings={trial.settings} files={files} />
      )}
      <StorageConditionsList trial={trial} />
    </ResultFrame>
  );
}

/** The same trial again, as it is asked for; null where it cannot be. */
function againOf({ kind, settings, subject: { volumeId } }: StorageTrial) {
  if (volumeId === null || kind === 'copy') return null;
  return kind === 'throughput' ? { ...settings, kind, volumeId } : { ...settings, kind };
}

function Actions({ page }: { page: TrialPage<StorageKind> }) {
  const { trial } = page;
  const { volumeId } = trial.subject;
  const isCopy = trial.kind === 'copy';
  return (
    <TrialActions
      page={page}
      again={againOf(trial)}
      goesOn={isCopy && trial.status !== 'done' && volumeId !== null}
      record={isCopy ? 'Files' : 'Raw record'}
      goes={
        isCopy
          ? 'The record of this copy goes. The copied files and their hash lists stay.'
          : 'The result and its record of requests go. This cannot be undone.'
      }
      home={isCopy ? '/storage/copies' : volumeId ? `/storage/volumes/${volumeId}` : '/storage'}
    />
  );
}
