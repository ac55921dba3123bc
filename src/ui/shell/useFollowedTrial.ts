'use client';
import { useEffect } from 'react';
import { useStatus } from './status';

/** Loads a trial's page again when the rig's status, asked for now and then, says otherwise than the page: an event may have been missed. */
export function useFollowedTrial(id: string, trialStatus: string, reload: () => Promise<void>): void {
  const { status } = useStatus();
  const isLive = trialStatus === 'queued' || trialStatus === 'running';
  const outOfDate = isLive && status !== null && (status.running?.id === id) !== (trialStatus === 'running');
  useEffect(() => {
    if (outOfDate) void reload();
  }, [outOfDate, status, reload]);
}
