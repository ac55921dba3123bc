'use client';
import { Pause, Square } from 'lucide-react';
import { useCallback, useMemo, useState } from 'react';
import type { StorageTrialRow } from '@/db/queries/storageTrials';
import type { StorageProgress } from '@/engine/storage/spec';
import { RateChart, type RateCurve } from '../charts/RateChart';
import { clockTime, count, megabytesPerSecond, percent, size } from '../format';
import { Button } from '../parts/Button';
import { Figure, FigureRow } from '../parts/Figure';
import { FormError } from '../parts/Field';
import { Progress } from '../parts/Progress';
import { useCommands } from '../shell/commands';
import { useEvents } from '../shell/events';
import { useStatus } from '../shell/status';
import { useSend } from '../useSend';
import { useCurves } from './ThroughputFigures';

/** A storage trial or copy that waits or runs. Leaving the page does not stop it; coming back finds it. */
export function LiveStorageTrial({ trial }: { trial: StorageTrialRow }) {
  const { storageProgress } = useStatus();
  const progress =
    storageProgress?.trialId === trial.id
      ? storageProgress.progress
      : trial.status === 'running'
        ? trial.progress
        : null;
  const { busy, error, send } = useSend();
  const [asked, setAsked] = useState<'cancel' | 'pause' | null>(null);
  const ask = useCallback(
    (what: 'cancel' | 'pause') => {
      setAsked(what);
      void send(`/api/storage/trials/${trial.id}/${what}`, 'POST').then((done) => {
        if (done === null) setAsked(null);
      });
    },
    [send, trial.id],
  );
  useCommands(
    useMemo(
      () => [
        {
          id: 'cancel',
          label: trial.kind === 'copy' ? 'Cancel this copy' : 'Cancel this trial',
          group: 'Trial',
          key: 'Escape',
          run: () => ask('cancel'),
        },
        ...(trial.kind === 'copy'
          ? [{ id: 'pause', label: 'Pause this copy', group: 'Trial', key: 'p', run: () => ask('pause') }]
          : []),
      ],
      [ask, trial.kind],
    ),
  );
  const curves = useLiveCurves(trial.id);
  const waiting = trial.status === 'queued';
  return (
    <div className="flex flex-col gap-4">
      <div className="flex items-center gap-2">
        <h1 aria-live="polite" className="mr-auto min-w-0 truncate">
          {waiting ? 'Waiting for its turn' : headline(trial, progress)}
        </h1>
        {trial.kind === 'copy' && (
          <Button onClick={() => ask('pause')} disabled={busy || asked !== null}>
            <Pause aria-hidden className="size-4" />
            {asked === 'pause' ? 'Pausing' : 'Pause'}
          </Button>
        )}
        <Button onClick={() => ask('cancel')} disabled={busy || asked === 'cancel'}>
          <Square aria-hidden className="size-4" />
          {asked === 'cancel' ? 'Cancelling' : 'Cancel'}
        </Button>
      </div>
      <FormError message={error?.message} />
      {waiting && (
        <p className="text-sm text-muted">
          One trial runs at a time on a rig, because two would measure each other. You may leave this page.
        </p>
      )}
      <Progress value={progress?.share ?? 0} most={1} label="Progress" />
      <FigureRow>
        <Figure name="Reading">{megabytesPerSecond(progress?.readRate ?? null)}</Figure>
        <Figure name="Writing">{megabytesPerSecond(progress?.writeRate ?? null)}</Figure>
        <Figure name="Moved">{size(progress?.bytes ?? 0)}</Figure>
        <Figure name="Done">{percent(progress?.share ?? 0, 0)}</Figure>
        <Figure name="Time left">{progress?.msLeft != null ? clockTime(progress.msLeft) : '–'}</Figure>
      </FigureRow>
      <RateChart curves={curves} label="Throughput as it is measured" />
      {trial.kind === 'copy' && (
        <p className="text-sm text-muted">
          A pause or a kill keeps the files that are whole; the one under way begins again. The rig is free
          for trials while a copy is paused.
        </p>
      )}
    </div>
  );
}

function headline(trial: StorageTrialRow, progress: StorageProgress | null): string {
  if (!progress || progress.phase === 'preparing') return progress?.note || 'Preparing';
  const of = `${count(progress.step + 1)} of ${count(progress.steps)}`;
  switch (trial.kind) {
    case 'copy':
      return `${progress.phase === 'verifying' ? 'Verifying' : 'Copying'} file ${of}: ${progress.note}`;
    case 'streams':
      return `Step ${count(progress.step + 1)} of at most ${count(progress.steps)}`;
    case 'throughput':
      return `Repeat ${of}`;
  }
}

/** Most points of one live curve: an hour of reports. */
const mostPoints = 14_400;

/** What was saved before the page came, then what events add. */
function useLiveCurves(trialId: string): readonly RateCurve[] {
  const saved = useCurves(trialId);
  const [live, setLive] = useState<
    ReadonlyMap<string, { readonly beganMs: number; readonly curve: RateCurve }>
  >(new Map());
  useEvents((event) => {
    if (
      event.type !== 'storage-progress' ||
      event.trialId !== trialId ||
      event.progress.phase === 'preparing'
    )
      return;
    const { step, atMs, readRate, writeRate, phase } = event.progress;
    const part = phase === 'measuring' ? step : 0;
    setLive((current) => {
      const next = new Map(current);
      for (const [write, rate] of [
        [false, readRate],
        [true, writeRate],
      ] as const) {
        const key = `${part}-${String(write)}`;
        const known = next.get(key);
        if (!known && rate === 0) continue;
        const beganMs = known?.beganMs ?? (phase === 'measuring' ? atMs : 0);
        const points = [...(known?.curve.points ?? []), [(atMs - beganMs) / 1000, rate] as const].slice(
          -mostPoints,
        );
        next.set(key, { beganMs, curve: { key, write, beganSeconds: 0, points } });
      }
      return next;
    });
  });
  return useMemo(() => {
    const fresh = [...live.values()].map(({ curve }) => curve);
    return [...(saved ?? []).filter((curve) => !fresh.some(({ key }) => key === curve.key)), ...fresh];
  }, [saved, live]);
}
