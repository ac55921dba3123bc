'use client';
import type { TrialKind } from '@/core/kinds/kinds';
import type { TrialPage } from '@/server/trials/trialPage';
import { useFollowedTrial } from '../shell/useFollowedTrial';
import { useLive } from '../shell/useLive';

/** A trial's page, kept fresh while it waits and runs. */
export function useTrialPage<Kind extends TrialKind>(
  initial: TrialPage<Kind>,
): { readonly page: TrialPage<Kind>; readonly isLive: boolean } {
  const { id } = initial.trial;
  const [asked, reload] = useLive(
    initial as TrialPage,
    'GET /api/trials/{id}',
    (event) => event.type === 'trial-status' && event.trialId === id,
    { ids: { id } },
  );
  const page = asked as TrialPage<Kind>; // a trial does not change its kind
  const { status } = page.trial;
  useFollowedTrial(id, status, reload);
  return { page, isLive: status === 'queued' || status === 'running' };
}
