'use client';
import { clockTime, count, percent } from '@/core/format';
import { clsx } from 'clsx';
import Link from 'next/link';
import type { ReactNode } from 'react';
import { disturbingLoad } from '@/core/rig/disturbance';
import { useStatus } from './status';

const powerWords = { mains: 'mains', battery: 'battery', unknown: 'not reported' } as const;

/** The present conditions, always in sight. */
export function ConditionStrip() {
  const { status, connected, othersLoad, live } = useStatus();
  const msLeft = live?.progress.msLeft;
  return (
    <header
      data-strip
      aria-label="Conditions"
      className="flex h-10 shrink-0 items-center gap-6 overflow-hidden whitespace-nowrap border-b bg-surface px-4 text-sm"
    >
      <Link prefetch={false} href="/" className="flex w-36 items-center gap-2 font-semibold tracking-wide">
        <Mark />
        Navvy
      </Link>
      {!connected && <Alarm>Navvy does not answer. Trying again.</Alarm>}
      {connected && !status && <Alarm>The database does not answer. Trying again.</Alarm>}
      {connected && status && (
        <>
          <Item name="Rig">{status.rigName}</Item>
          <Item name="Power" alarm={status.power === 'battery' ? 'may slow the rig' : null}>
            {powerWords[status.power]}
          </Item>
          <Item
            name="Load by others"
            alarm={othersLoad !== null && othersLoad > disturbingLoad ? 'disturbs' : null}
          >
            <span className="figure inline-block min-w-10">
              {othersLoad === null ? '–' : percent(othersLoad, 0)}
            </span>
          </Item>
          {status.runner === 'silent' && (
            <Alarm>The runner is not there; it is started again by itself.</Alarm>
          )}
          <div role="status" className="flex min-w-0 items-center gap-6">
            {status.running ? (
              <Item name={status.running.what}>
                <Link
                  prefetch={false}
                  href={status.running.href}
                  className="underline decoration-edge underline-offset-4"
                >
                  {status.running.name}
                </Link>
                {msLeft != null && <span className="figure ml-2 text-muted">{clockTime(msLeft)} left</span>}
              </Item>
            ) : (
              <Item name="Trial">none running</Item>
            )}
            <Item name="Queue">{status.queued === 0 ? 'empty' : `${count(status.queued)} waiting`}</Item>
          </div>
        </>
      )}
    </header>
  );
}

/** One condition; `alarm` says in words why it needs attention. */
function Item({
  name,
  alarm = null,
  children,
}: {
  name: string;
  alarm?: string | null;
  children: ReactNode;
}) {
  return (
    <span className={clsx('min-w-0 truncate', alarm && 'text-signal-text')}>
      <span className="mr-2 text-xs text-muted">{name}</span>
      {children}
      {alarm && ` ${alarm}`}
    </span>
  );
}

function Alarm({ children }: { children: ReactNode }) {
  return (
    <span role="alert" className="bg-signal px-2 py-0.5 font-medium text-signal-ink">
      {children}
    </span>
  );
}

/** Navvy's mark: a course of laid stones with one still to lay. */
function Mark() {
  return (
    <svg aria-hidden viewBox="0 0 20 14" className="h-3.5 w-5">
      <path d="M0 8h6v6H0zM7 8h6v6H7zM14 8h6v6h-6zM3.5 1h6v6h-6z" fill="currentColor" />
      <path d="M10.5 1h6v6h-6z" fill="var(--signal)" />
    </svg>
  );
}
