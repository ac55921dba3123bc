'use client';
import { useEffect } from 'react';
import type { TrialPage } from '@/server/trials';
import { useStatus } from '../shell/status';
import { useLive } from '../shell/useLive';
import { LiveTrial } from './LiveTrial';
import { TrialResult } from './TrialResult';

/** A trial's page: live while it waits or runs, its result afterwards. */
export function TrialView({ initial }: { initial: TrialPage }) {
  const { id } = initial.trial;
  const [{ trial, samples }, reload] = useLive(initial, `/api/trials/${id}`, (event) => event.type === 'trial-status' && event.trialId === id);
  const { status } = useStatus();
  const live = trial.status === 'queued' || trial.status === 'running';
  // Should an event be missed, the rig's status, asked for now and then, tells.
  const outOfDate = live && status !== null && (status.running?.id === id) !== (trial.status === 'running');
  useEffect(() => {
    if (outOfDate) void reload();
  }, [outOfDate, status, reload]);
  return live ? <LiveTrial trial={trial} /> : <TrialResult trial={trial} samples={samples} />;
}
