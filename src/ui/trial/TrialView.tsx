'use client';
import type { PlayedKind } from '@/core/kinds/kinds';
import type { TrialPage } from '@/server/trialPage';
import { LiveTrial } from './LiveTrial';
import { TrialResult } from './TrialResult';
import { useTrialPage } from './useTrialPage';

/** A playback trial's page: live while it waits or runs, its result afterwards. */
export function TrialView({ initial }: { initial: TrialPage<PlayedKind> }) {
  const { page, isLive } = useTrialPage(initial);
  return isLive ? <LiveTrial trial={page.trial} /> : <TrialResult page={page} />;
}
