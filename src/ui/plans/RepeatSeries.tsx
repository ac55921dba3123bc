'use client';
import { Layers } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { fewestForRatio } from '@/core/stats/bootstrap';
import type { PlanTemplate } from '@/db/schema';
import { Button } from '../parts/Button';
import { figure } from '../parts/Field';
import { useSend } from '../useSend';

/** Repeats a trial of any kind under the same conditions, as a series. */
export function RepeatSeries({ kind, trialId }: { kind: PlanTemplate['kind']; trialId: string }) {
  const router = useRouter();
  const [repeats, setRepeats] = useState(String(fewestForRatio));
  const { busy, error, send } = useSend();
  const start = () => { void send<{ id: string }>('/api/plans/series', 'POST', { kind, trialId, repeats: figure(repeats) }).then((made) => { if (made) router.push(`/trials/plans/${made.id}`); }); };
  return (
    <form data-no-print className="inline-flex items-center gap-1" aria-label="Series" onSubmit={(event) => { event.preventDefault(); start(); }}>
      <Button type="submit" disabled={busy}><Layers aria-hidden className="size-4" />Series of</Button>
      <input aria-label="Repeats of the series" inputMode="numeric" value={repeats} onChange={(event) => setRepeats(event.target.value)} className="figure h-9 w-12 border border-edge bg-ground px-2 text-sm" />
      {error && <span role="alert" className="max-w-64 text-sm text-signal-text">{error.message}</span>}
    </form>
  );
}
