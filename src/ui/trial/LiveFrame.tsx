'use client';
import { clockTime, megabytesPerSecond } from '@/core/format';
import { Pause, Square } from 'lucide-react';
import { useCallback, useMemo, useState, type ReactNode } from 'react';
import type { TrialListRow } from '@/db/kinds';
import { Button } from '../parts/Button';
import { FormError } from '../parts/Field';
import { Progress } from '../parts/Progress';
import { useCommands } from '../keys/commands';
import { useStatus } from '../shell/status';
import { useSend } from '../useSend';

/** Asks a trial that waits or runs to stop, by button and by key. @param noun what it is called: "trial", "copy" */
function useControls(id: string, noun: string, pauses: boolean) {
  const { busy, error, send } = useSend();
  const [asked, setAsked] = useState<'cancel' | 'pause' | null>(null);
  const ask = useCallback(
    (what: 'cancel' | 'pause') => {
      setAsked(what);
      void send('POST /api/trials/{id}/{control}', { ids: { id, control: what } }).then((done) => {
        if (done === null) setAsked(null);
      });
    },
    [send, id],
  );
  useCommands(
    useMemo(
      () => [
        {
          id: 'cancel',
          label: `Cancel this ${noun}`,
          group: 'Trial',
          key: 'Escape',
          run: () => ask('cancel'),
        },
        ...(pauses
          ? [{ id: 'pause', label: `Pause this ${noun}`, group: 'Trial', key: 'p', run: () => ask('pause') }]
          : []),
      ],
      [ask, noun, pauses],
    ),
  );
  return { busy, error, asked, ask };
}

/**
 * A trial of any kind that waits or runs: what it does, how far it is, and how it is stopped.
 * Leaving the page does not stop it; coming back finds it. Its kind puts its numbers and its picture into it.
 */
export function LiveFrame({
  trial,
  now,
  noun = 'trial',
  pauses = false,
  share = null,
  msLeft = null,
  stopping = '',
  children,
}: {
  trial: Pick<TrialListRow, 'id' | 'status'>;
  /** What it does at the moment. */
  now: string;
  noun?: string;
  pauses?: boolean;
  /** How much is done, 0 to 1; null draws no bar, where the kind has a better picture of it. */
  share?: number | null;
  msLeft?: number | null;
  /** What stays when it is stopped. */
  stopping?: string;
  children?: ReactNode;
}) {
  const { busy, error, asked, ask } = useControls(trial.id, noun, pauses);
  const waiting = trial.status === 'queued';
  return (
    <div className="flex flex-col gap-4">
      <div className="flex items-center gap-2">
        <h1 aria-live="polite" className="mr-auto min-w-0 truncate">
          {waiting ? 'Waiting for its turn' : now}
        </h1>
        {pauses && (
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
      {share !== null && <Progress value={share} most={1} label="Progress" />}
      {children}
      {!waiting && <OverTheNetwork />}
      <p className="text-sm text-muted">
        {waiting && 'One trial runs at a time on a rig, because two would measure each other. '}
        {msLeft !== null && (
          <>
            About <span className="figure">{clockTime(msLeft)}</span> left.{' '}
          </>
        )}
        You may leave this page; it goes on. {stopping}
      </p>
    </div>
  );
}

/** With a volume that is reached over the network: what passes the way there, beside what the trial reads and writes itself. */
function OverTheNetwork() {
  const { link } = useStatus();
  if (!link) return null;
  return (
    <p className="text-sm" data-testid="link">
      <span className="text-muted">Network to {link.names}: </span>
      <span className="figure">{megabytesPerSecond(link.linkBytesPerSecond)}</span>
      <span className="text-muted">, by any program; the trial reads and writes </span>
      <span className="figure">{megabytesPerSecond(link.trialMovedBytesPerSecond)}</span>
    </p>
  );
}
