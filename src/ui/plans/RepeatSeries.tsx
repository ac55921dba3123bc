'use client';
import { Layers } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { fewestForRatio } from '@/core/stats/bootstrap';
import { Button } from '../parts/Button';
import { figure } from '../parts/Field';
import { useSend } from '../useSend';
import { usualMostMadeUp } from './words';

/** Repeats a trial of any kind under the same conditions, as a series. */
export function RepeatSeries({ trialId }: { trialId: string }) {
  const router = useRouter();
  const [repeats, setRepeats] = useState(String(fewestForRatio));
  const [mostMadeUp, setMostMadeUp] = useState(String(usualMostMadeUp));
  const { busy, error, send } = useSend();
  const start = () => {
    void send('POST /api/plans/series', {
      body: {
        trialId,
        repeats: figure(repeats),
        mostMadeUp: figure(mostMadeUp),
      },
    }).then((made) => {
      if (made) router.push(`/trials/plans/${made.id}`);
    });
  };
  return (
    <form
      data-no-print
      className="inline-flex items-center gap-1"
      aria-label="Series"
      onSubmit={(event) => {
        event.preventDefault();
        start();
      }}
    >
      <Button type="submit" disabled={busy}>
        <Layers aria-hidden className="size-4" />
        Series of
      </Button>
      <input
        aria-label="Repeats of the series"
        inputMode="numeric"
        value={repeats}
        onChange={(event) => setRepeats(event.target.value)}
        className="figure h-9 w-12 border border-edge bg-ground px-2 text-sm"
      />
      <label
        className="flex items-center gap-1 whitespace-nowrap text-xs text-muted"
        title="A run that others disturbed, or in which the machine itself was unsteady, is repeated by itself, up to so many times."
      >
        and up to
        <input
          aria-label="More for runs in doubt"
          inputMode="numeric"
          value={mostMadeUp}
          onChange={(event) => setMostMadeUp(event.target.value)}
          className="figure h-9 w-10 border border-edge bg-ground px-2 text-sm text-ink"
        />
        more if in doubt
      </label>
      {error && (
        <span role="alert" className="max-w-64 text-sm text-signal-text">
          {error.message}
        </span>
      )}
    </form>
  );
}
