'use client';
import type { TrialAsked } from '@/core/asked/trials';
import { Download, Play, RotateCcw, Trash2 } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { endedBadly } from '@/core/kinds/ends';
import { isOneOf, trialHref, type TrialKind } from '@/core/kinds/kinds';
import { soakable } from '@/core/kinds/soak';
import type { TrialPage } from '@/server/trials/trialPage';
import { addressOf, callApi } from '../api';
import { Button, LinkButton } from '../parts/Button';
import { ConfirmButton } from '../parts/Confirm';
import { FormError } from '../parts/Field';
import { RepeatSeries } from '../plans/RepeatSeries';
import { useSend } from '../useSend';
import { SoakForm } from './SoakForm';

/** What can be done with a trial of some kind that has ended. */
export interface Possible {
  readonly noun?: string;
  /** The same again, as it is asked for; null where it cannot be. */
  readonly again?: Readonly<Record<string, unknown>> | null;
  /** Repeats of it say more than one does. */
  readonly inSeries?: boolean;
  /** It stopped before its end and can go on. */
  readonly goesOn?: boolean;
  /** What is recorded, as its download is called. */
  readonly record: string;
  /** What goes when it is removed. */
  readonly goes: string;
  /** The page to go to then. */
  readonly home: string;
}

const isSoakable = (kind: TrialKind) => isOneOf<TrialKind>(soakable, kind);

/** The buttons for it. What comes from another rig is only read. */
export function TrialActions({
  page: { trial, rig },
  noun = 'trial',
  again = null,
  inSeries = true,
  goesOn = false,
  record,
  goes,
  home,
}: Possible & { page: TrialPage }) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const { id, kind, status } = trial;
  const failed = endedBadly(status);
  const repeat = async () => {
    const made = await send('POST /api/trials', {
      // As it was once asked for and kept: the server checks it as it did then.
      body: { kind, ...again, ...(failed ? { attemptOf: id } : {}) } as TrialAsked,
    });
    if (made) router.push(trialHref({ kind, id: made.id }));
  };
  return (
    <div
      data-no-print
      className="ml-auto flex max-w-[41rem] shrink-0 flex-wrap items-start justify-end gap-1"
    >
      {!rig.imported && goesOn && (
        <Button
          look="main"
          disabled={busy}
          onClick={() => {
            void send('POST /api/trials/{id}/{control}', { ids: { id, control: 'resume' } });
          }}
        >
          <Play aria-hidden className="size-4" />
          Continue
        </Button>
      )}
      {!rig.imported && again && (
        <>
          <Button
            disabled={busy}
            onClick={() => {
              void repeat();
            }}
          >
            <RotateCcw aria-hidden className="size-4" />
            {failed ? 'Try again' : 'Repeat'}
          </Button>
          {inSeries && <RepeatSeries trialId={id} />}
          {isSoakable(kind) && <SoakForm work={{ kind, ...again }} />}
        </>
      )}
      <LinkButton href={addressOf('GET /api/trials/{id}/csv', { ids: { id } })} look="quiet">
        <Download aria-hidden className="size-4" />
        {record}
      </LinkButton>
      {!rig.imported && (
        <ConfirmButton
          label={`Remove this ${noun}`}
          title={`Remove this ${noun}?`}
          consequence={goes}
          verb="Remove"
          act={async () => {
            await callApi('DELETE /api/trials/{id}', { ids: { id } });
            router.push(home);
          }}
        >
          <Trash2 aria-hidden className="size-4" />
        </ConfirmButton>
      )}
      <FormError message={error?.message} />
    </div>
  );
}
