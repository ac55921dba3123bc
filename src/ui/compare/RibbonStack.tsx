'use client';
import { useEffect, useState } from 'react';
import { decodeTraceView, type TraceView } from '@/core/playback/traceView';
import type { Comparison } from '@/server/decide/comparisons';
import { RibbonLegend } from '../charts/Legend';
import { RibbonSvg } from '../charts/RibbonSvg';
import { greatest } from '@/core/stats/extremes';
import { addressOf } from '../api';

const mostRibbons = 8;

/** The slots of a trial; null until they are there, or when they cannot be loaded. */
export function useTraceView(trialId: string | null): TraceView | null {
  const [view, setView] = useState<{ id: string; view: TraceView } | null>(null);
  useEffect(() => {
    if (trialId === null) return;
    const control = new AbortController();
    fetch(addressOf('GET /api/trials/{id}/trace', { ids: { id: trialId } }), { signal: control.signal })
      .then(async (response) => {
        if (response.ok) setView({ id: trialId, view: decodeTraceView(await response.arrayBuffer()) });
      })
      .catch(() => undefined);
    return () => control.abort();
  }, [trialId]);
  return view?.id === trialId ? view.view : null;
}

/** Ribbons of the sides' first counting repeats over each other on one axis of slots. */
export function RibbonStack({ sides }: { sides: Comparison['sides'] }) {
  const played = sides
    .filter(({ kind, repeats }) => kind === 'playback' && repeats.some(({ excluded }) => excluded === null))
    .slice(0, mostRibbons);
  const [slots, setSlots] = useState<Readonly<Record<string, number>>>({});
  if (played.length === 0) return null;
  const longest = greatest(Object.values(slots), 1);
  return (
    <section aria-label="Ribbons, stacked">
      <h2>Slots, on one axis</h2>
      {played.map(({ id, name, repeats }) => (
        <OneRibbon
          key={id}
          name={name}
          trialId={repeats.find(({ excluded }) => excluded === null)?.trialId ?? null}
          most={longest}
          onSlots={(count) => setSlots((now) => (now[id] === count ? now : { ...now, [id]: count }))}
        />
      ))}
      <RibbonLegend />
      {sides.length > played.length && played.length === mostRibbons && (
        <p className="text-xs text-muted">The first {mostRibbons} sides are drawn.</p>
      )}
    </section>
  );
}

function OneRibbon({
  name,
  trialId,
  most,
  onSlots,
}: {
  name: string;
  trialId: string | null;
  most: number;
  onSlots: (count: number) => void;
}) {
  const view = useTraceView(trialId);
  useEffect(() => {
    if (view) onSlots(view.slots);
  });
  return (
    <div className="mt-1.5">
      <div className="truncate text-xs text-muted" title={name}>
        {name}, its first repeat that counts
      </div>
      {view ? (
        <RibbonSvg data={view} most={most} label={`Slots of ${name}`} />
      ) : (
        <div className="h-10 border bg-surface" />
      )}
    </div>
  );
}
