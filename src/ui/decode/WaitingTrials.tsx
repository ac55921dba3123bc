'use client';
import { clockTime, count, percent } from '@/core/format';
import { decodeKinds } from '@/core/kinds/kinds';
import { Button } from '../parts/Button';
import { FormError } from '../parts/Field';
import { Progress } from '../parts/Progress';
import { useStatus } from '../shell/status';
import { useSend } from '../useSend';
import type { DecodeProgress } from '@/core/kinds/shared/decode';

/** Decode trials that wait or run, with a way to take the waiting ones out. */
export function WaitingTrials({ waiting }: { waiting: number }) {
  const { status, live } = useStatus();
  const { busy, error, send } = useSend();
  if (waiting === 0) return null;
  const decodes = status?.running?.href.startsWith('/media/decode/') && live?.trialId === status.running.id;
  const progress = decodes ? (live.progress as DecodeProgress) : null;
  return (
    <section aria-label="Under way" className="flex flex-col gap-2 border bg-surface p-3">
      <div className="flex items-center gap-4 text-sm">
        <span role="status">
          {count(waiting)} {waiting === 1 ? 'trial' : 'trials'} to go
          {progress && `: ${progress.note}, ${percent(progress.share, 0)} of this one`}
          {progress?.msLeft != null && `, ${clockTime(progress.msLeft)} left for it`}
        </span>
        <Button
          className="ml-auto h-8"
          disabled={busy}
          onClick={() => {
            void send('POST /api/trials/cancel-waiting', { body: { kinds: decodeKinds } });
          }}
        >
          Cancel those that wait
        </Button>
      </div>
      <Progress value={progress?.share ?? 0} most={1} label="This trial" />
      <FormError message={error?.message} />
    </section>
  );
}
