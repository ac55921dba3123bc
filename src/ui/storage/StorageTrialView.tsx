'use client';
import { Download, Play, RotateCcw, Trash2 } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import type { StorageTrialRow } from '@/db/queries/storageTrials';
import type { StorageTrialPage } from '@/server/storage';
import { callApi } from '../api';
import { Button, LinkButton } from '../parts/Button';
import { ConfirmButton } from '../parts/Confirm';
import { FormError } from '../parts/Field';
import { Simulated } from '../parts/Simulated';
import { DoubtNote } from '../parts/DoubtNote';
import { useFollowedTrial } from '../shell/useFollowedTrial';
import { useLive } from '../shell/useLive';
import { RepeatSeries } from '../plans/RepeatSeries';
import { EndNote } from '../trial/EndNote';
import { RigDuring } from '../trial/RigDuring';
import { useSend } from '../useSend';
import { CopyFigures } from './CopyFigures';
import { LiveStorageTrial } from './LiveStorageTrial';
import { StorageConditionsList } from './StorageConditionsList';
import { StreamsFigures } from './StreamsFigures';
import { ThroughputFigures } from './ThroughputFigures';
import { settingsWords, storageAnswer } from './words';

/** A storage trial or copy on its page: while it waits or runs, and its result. */
export function StorageTrialView({ initial }: { initial: StorageTrialPage }) {
  const { id } = initial.trial;
  const [page, reload] = useLive(
    initial,
    `/api/storage/trials/${id}`,
    (event) => event.type === 'storage-status' && event.trialId === id,
  );
  const { trial } = page;
  useFollowedTrial(id, trial.status, reload);
  const isLive = trial.status === 'queued' || trial.status === 'running';
  return (
    <div className="flex max-w-6xl flex-col gap-5">
      <div className="flex items-start gap-4">
        <div className="flex min-w-0 flex-wrap items-baseline gap-x-4 gap-y-1 text-sm text-muted">
          {trial.volumeId ? (
            <Link
              prefetch={false}
              href={`/storage/volumes/${trial.volumeId}`}
              className="text-base font-semibold text-ink underline decoration-edge underline-offset-4"
            >
              {trial.subject.volumeName}
            </Link>
          ) : (
            <span className="text-base font-semibold text-ink">{trial.subject.volumeName}</span>
          )}
          {trial.subject.standIn && <Simulated model={trial.subject.standIn} />}
          <span>{settingsWords(trial.settings)}</span>
          {trial.subject.clip && <span className="break-all">{trial.subject.clip.path}</span>}
        </div>
        {!isLive && <Actions trial={trial} />}
      </div>
      {isLive ? <LiveStorageTrial trial={trial} /> : <Result page={page} />}
    </div>
  );
}

function Result({ page: { trial, files } }: { page: StorageTrialPage }) {
  const { result, load, status } = trial;
  const answer = storageAnswer(trial);
  return (
    <>
      {status !== 'done' && (
        <EndNote
          of={trial}
          title={trial.kind === 'copy' && status === 'paused' ? 'This copy is paused' : undefined}
          further={
            trial.kind === 'copy'
              ? ' Files that are whole stay where they are; half-written ones were removed.'
              : ''
          }
        />
      )}
      {answer && (
        <h1 data-testid="answer">
          {status !== 'done' && 'Up to where it ended: '}
          {answer}
        </h1>
      )}
      <DoubtNote load={load} />
      {result?.kind === 'throughput' && trial.settings.kind === 'throughput' && (
        <ThroughputFigures trial={trial} settings={trial.settings} summary={result.summary} />
      )}
      {result?.kind === 'streams' && <StreamsFigures trial={trial} summary={result.summary} />}
      {trial.settings.kind === 'copy' && (
        <CopyFigures
          result={result?.kind === 'copy' ? result.summary : null}
          settings={trial.settings}
          files={files}
        />
      )}
      <StorageConditionsList trial={trial} />
      {trial.kind !== 'copy' && <RigDuring trialId={trial.id} load={load} />}
    </>
  );
}

function Actions({ trial }: { trial: StorageTrialRow }) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const { settings, volumeId } = trial;
  const again = async () => {
    const made =
      settings.kind === 'throughput'
        ? await send<{ id: string }>('/api/storage/throughput', 'POST', { ...settings, volumeId })
        : settings.kind === 'streams'
          ? await send<{ id: string }>('/api/storage/streams', 'POST', settings)
          : null;
    if (made) router.push(`/storage/trials/${made.id}`);
  };
  const isCopy = settings.kind === 'copy';
  return (
    <div data-no-print className="ml-auto flex shrink-0 items-start gap-1">
      {isCopy && trial.status !== 'done' && volumeId && (
        <Button
          look="main"
          disabled={busy}
          onClick={() => {
            void send(`/api/storage/trials/${trial.id}/resume`, 'POST');
          }}
        >
          <Play aria-hidden className="size-4" />
          Continue
        </Button>
      )}
      {!isCopy && volumeId && (
        <Button
          disabled={busy}
          onClick={() => {
            void again();
          }}
        >
          <RotateCcw aria-hidden className="size-4" />
          Repeat
        </Button>
      )}
      {!isCopy && volumeId && <RepeatSeries kind="storage" trialId={trial.id} />}
      {!isCopy && (
        <LinkButton href={`/api/storage/trials/${trial.id}/csv`} look="quiet">
          <Download aria-hidden className="size-4" />
          Raw record
        </LinkButton>
      )}
      <ConfirmButton
        label="Remove this trial"
        title="Remove this trial?"
        consequence={
          isCopy
            ? 'The record of this copy goes. The copied files and their hash lists stay.'
            : 'The result and its record of requests go. This cannot be undone.'
        }
        verb="Remove"
        act={async () => {
          await callApi(`/api/storage/trials/${trial.id}`, 'DELETE');
          router.push(isCopy ? '/storage/copies' : volumeId ? `/storage/volumes/${volumeId}` : '/storage');
        }}
      >
        <Trash2 aria-hidden className="size-4" />
      </ConfirmButton>
      <FormError message={error?.message} />
    </div>
  );
}
