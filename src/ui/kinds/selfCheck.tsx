'use client';
import { LiveTrial } from '../trial/LiveTrial';
import { PlayedLine } from '../trial/PlayedLine';
import { playedPossible, TrialResult } from '../trial/TrialResult';
import type { KindView } from './kind';

export const selfCheck: KindView<'self-check'> = {
  Line: PlayedLine,
  Live: ({ page }) => <LiveTrial trial={page.trial} />,
  Result: TrialResult,
  possible: playedPossible,
  wide: true,
};
