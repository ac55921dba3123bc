'use client';
import type { PlayedKind } from '@/core/kinds/kinds';
import { LiveTrial } from '../../trial/LiveTrial';
import { PlayedLine } from '../../trial/PlayedLine';
import { playedPossible, TrialResult } from '../../trial/TrialResult';
import type { KindView } from '../kind';

/** What plays to deadlines: its ribbon over the whole width. */
export const playedView: KindView<PlayedKind> = {
  Line: PlayedLine,
  Live: ({ page }) => <LiveTrial trial={page.trial} />,
  Result: TrialResult,
  possible: playedPossible,
  wide: true,
};
