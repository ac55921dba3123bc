'use client';
import Link from 'next/link';
import type { ReactNode } from 'react';
import type { TrialPage } from '@/server/trials/trialPage';
import { DoubtNote } from '../parts/DoubtNote';
import { EndNote } from './EndNote';
import { OriginNote } from './OriginNote';
import { RigDuring } from './RigDuring';

/** The line above a trial of any kind: what it is, of what, and the series it belongs to. */
export function TrialLine({
  plan = null,
  actions,
  children,
}: {
  plan?: TrialPage['plan'];
  actions: ReactNode;
  children: ReactNode;
}) {
  return (
    <div className="flex items-start gap-4">
      <div className="flex min-w-0 flex-wrap items-baseline gap-x-4 gap-y-1 text-sm text-muted">
        {plan && (
          <Link
            prefetch={false}
            href={`/trials/plans/${plan.planId}`}
            className="underline decoration-edge underline-offset-4"
          >
            {plan.name}, repeat {plan.repeat + 1}
          </Link>
        )}
        {children}
      </div>
      {actions}
    </div>
  );
}

/** The result of a trial of any kind: its end, its answer, what its kind shows of it, what the rig did meanwhile, and notes. */
export function ResultFrame({
  page,
  answer,
  title,
  further,
  decides = true,
  children,
}: {
  page: TrialPage;
  answer: ReactNode;
  /** How it says that it did not come to its end, in place of the status's own words. */
  title?: string | undefined;
  further?: string;
  /** A doubt about the figures matters. */
  decides?: boolean;
  children: ReactNode;
}) {
  const { trial } = page;
  return (
    <>
      <OriginNote page={page} />
      {trial.status !== 'done' && (
        <EndNote of={trial} {...(title === undefined ? {} : { title })} {...(further ? { further } : {})} />
      )}
      {answer && (
        <h1 data-testid="answer">
          {trial.status !== 'done' && 'Up to where it ended: '}
          {answer}
        </h1>
      )}
      <DoubtNote load={trial.load} decides={decides} />
      {children}
      <RigDuring page={page} />
    </>
  );
}
