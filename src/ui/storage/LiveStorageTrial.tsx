'use client';
import { clockTime, count, megabytesPerSecond, percent, size } from '@/core/format';
import { useMemo, useState } from 'react';
import type { StorageTrial } from '@/db/kinds';
import { RateChart, type RateCurve } from '../charts/RateChart';
import { Figure, FigureRow } from '../parts/Figure';
import { useEvents } from '../shell/events';
import { useProgress } from '../shell/status';
import { LiveFrame } from '../trial/LiveFrame';
import { useCurves } from './ThroughputFigures';
import type { StorageProgress } from '@/core/kinds/shared/storage';

/** A storage trial or copy that waits or runs: what moves, and how fast. */
export function LiveStorageTrial({ trial }: { trial: StorageTrial }) {
  const told = useProgress<StorageProgress>(trial.id);
  const progress = told ?? (trial.status === 'running' ? trial.progress : null);
  const curves = useLiveCurves(trial.id);
  const isCopy = trial.kind === 'copy';
  const isVerification = trial.kind === 'verification';
  return (
    <LiveFrame
      trial={trial}
      now={headline(trial, progress)}
      noun={isCopy ? 'copy' : isVerification ? 'verification' : 'trial'}
      pauses={isCopy || isVerification}
      share={progress?.share ?? 0}
      stopping={
        isCopy
          ? 'A pause or a kill keeps the files that are whole; the one in progress starts again. The rig is free for trials while a copy is paused.'
          : isVerification
            ? 'A pause or a kill keeps what was found of the files that were read; the one in progress starts again.'
            : ''
      }
    >
      <FigureRow>
        <Figure name="Reading">{megabytesPerSecond(progress?.readRate ?? null)}</Figure>
        {!isVerification && <Figure name="Writing">{megabytesPerSecond(progress?.writeRate ?? null)}</Figure>}
        <Figure name={isVerification ? 'Read' : 'Moved'}>{size(progress?.bytes ?? 0)}</Figure>
        <Figure name="Done">{percent(progress?.share ?? 0, 0)}</Figure>
        <Figure name="Time left">{progress?.msLeft != null ? clockTime(progress.msLeft) : '–'}</Figure>
      </FigureRow>
      <RateChart curves={curves} label="Throughput as it is measured" />
    </LiveFrame>
  );
}

function headline({ kind }: Pick<StorageTrial, 'kind'>, progress: StorageProgress | null): string {
  if (!progress || progress.phase === 'preparing') return progress?.note || 'Preparing';
  const of = `${count(progress.step + 1)} of ${count(progress.steps)}`;
  switch (kind) {
    case 'copy':
      return `${progress.phase === 'verifying' ? 'Verifying' : 'Copying'} file ${of}: ${progress.note}`;
    case 'verification':
      return `Verifying file ${of}: ${progress.note}`;
    case 'streams-carried':
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
    if (event.type !== 'trial-progress' || event.trialId !== trialId) return;
    const { step, atMs, readRate, writeRate, phase } = event.progress as StorageProgress;
    if (phase === 'preparing') return;
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
