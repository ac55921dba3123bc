'use client';
import { Hourglass } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { trialHref } from '@/core/kinds/kinds';
import { Button } from '../parts/Button';
import { figure } from '../parts/Field';
import { useSend } from '../useSend';

/** Repeats a playback or a task for minutes to hours, as one trial. @param work as it is asked for by itself */
export function SoakForm({ work }: { work: Readonly<Record<string, unknown>> }) {
  const router = useRouter();
  const [minutes, setMinutes] = useState('30');
  const { busy, error, send } = useSend();
  const start = () => {
    void send('POST /api/trials', { body: { kind: 'soak', minutes: figure(minutes), work } }).then((made) => {
      if (made) router.push(trialHref({ kind: 'soak', id: made.id }));
    });
  };
  return (
    <form
      data-no-print
      className="inline-flex items-center gap-1"
      aria-label="Soak"
      onSubmit={(event) => {
        event.preventDefault();
        start();
      }}
    >
      <Button type="submit" disabled={busy} title="Again and again, as one trial: sustained against burst">
        <Hourglass aria-hidden className="size-4" />
        Soak for
      </Button>
      <input
        aria-label="Minutes of the soak"
        inputMode="decimal"
        value={minutes}
        onChange={(event) => setMinutes(event.target.value)}
        className="figure h-9 w-14 border border-edge bg-ground px-2 text-sm"
      />
      <span className="text-xs text-muted">min</span>
      {error && (
        <span role="alert" className="max-w-64 text-sm text-signal-text">
          {error.message}
        </span>
      )}
    </form>
  );
}
