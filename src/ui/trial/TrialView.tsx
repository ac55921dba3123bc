'use client';
import type { TrialPage } from '@/server/trials';
import { useFollowedTrial } from '../shell/useFollowedTrial';
import { useLive } from '../shell/useLive';
import { LiveTrial } from './LiveTrial';
import { TrialResult } from './TrialResult';

/** A trial's page: live while it waits or runs, its result afterwards. */
export function TrialView({ initial }: { initial: TrialPage }) {
  const { id } = initial.trial;
  const [page, reload] = useLive(
    initial,
    `/api/trials/${id}`,
    (event) => event.type === 'trial-status' && event.trialId === id,
  );
  const { trial } = page;
  useFollowedTrial(id, trial.status, reload);
  return trial.status === 'queued' || trial.status === 'running' ? (
    <LiveTrial trial={trial} />
  ) : (
    <TrialResult {...page} />
  );
}
