'use client';
import Link from 'next/link';
import { formatLabel } from '@/core/media/format';
import { rateLabel } from '@/core/time/rational';
import type { TrialListRow } from '@/db/queries/trials';
import { MiddleName } from '../parts/MiddleName';
import { Simulated } from '../parts/Simulated';
import { policyWords } from './words';

/** Which clip, from where, under what: the line above every trial. */
export function TrialHeader({ trial }: { trial: TrialListRow }) {
  const { subject, settings } = trial;
  return (
    <div className="flex min-w-0 flex-wrap items-baseline gap-x-4 gap-y-1 text-sm text-muted">
      <Link prefetch={false} href={trial.kind === 'self-check' ? '/rig' : '/trials'} className="underline decoration-edge underline-offset-4">{trial.kind === 'self-check' ? 'Rig' : 'Trials'}</Link>
      <span className="flex min-w-0 text-base font-semibold text-ink"><MiddleName name={subject.clipPath.split('/').at(-1) ?? subject.clipPath} /></span>
      <span>{formatLabel(subject.format)}, {rateLabel(subject.format.rate)} per second</span>
      <span>from {subject.volumeName}{subject.standIn && <> <Simulated model={subject.standIn} /></>}</span>
      <span>{settings.scale} scale, {policyWords[settings.policy]}{settings.warm ? ', warm on purpose' : ''}</span>
    </div>
  );
}
