'use client';
import { clsx } from 'clsx';
import type { TrialKind } from '@/core/kinds/kinds';
import type { TrialPage } from '@/server/trials/trialPage';
import { kindViews } from '../kinds';
import type { KindView } from '../kinds/kind';
import { TrialLine } from '../trial/ResultFrame';
import { Attempts } from '../trial/Attempts';
import { TrialActions } from '../trial/TrialActions';
import { useTrialPage } from '../trial/useTrialPage';

/** A trial of any kind on its page: live while it waits or runs, its result afterwards. */
export function TrialView<Kind extends TrialKind>({ initial }: { initial: TrialPage<Kind> }) {
  const { page, isLive } = useTrialPage(initial as unknown as TrialPage);
  const { trial, plan } = page;
  const { Line, Live, Result, possible, wide } = kindViews[trial.kind] as unknown as KindView<TrialKind>;
  return (
    <div className={clsx('flex flex-col gap-5', !wide && 'max-w-6xl')}>
      <TrialLine plan={plan} actions={!isLive && <TrialActions page={page} {...possible(page)} />}>
        <Line trial={trial} />
        <Attempts of={page} />
      </TrialLine>
      {isLive ? <Live page={page} /> : <Result page={page} />}
    </div>
  );
}
