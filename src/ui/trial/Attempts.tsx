import Link from 'next/link';
import { trialHref } from '@/core/kinds/kinds';
import type { TrialPage } from '@/server/trials/trialPage';
import { statusWords } from '../trialWords';

/** Which attempt at the same this is, with how the others ended; nothing where there was but one. */
export function Attempts({ of: { trial, attempts } }: { of: TrialPage }) {
  if (attempts.length < 2) return null;
  return (
    <span>
      Attempt {attempts.findIndex(({ id }) => id === trial.id) + 1} of {attempts.length}:{' '}
      {attempts.map((attempt, index) => (
        <span key={attempt.id}>
          {index > 0 && ', '}
          {attempt.id === trial.id ? (
            <span aria-current="page">{statusWords[trial.status]}</span>
          ) : (
            <Link
              prefetch={false}
              href={trialHref(attempt)}
              className="underline decoration-edge underline-offset-4"
            >
              {statusWords[attempt.status]}
            </Link>
          )}
        </span>
      ))}
    </span>
  );
}
