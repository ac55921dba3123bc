'use client';
import { RateFigures } from '../decode/RateFigures';
import type { KindView } from './kind';
import { DecodeLine, DecodeLive, decodePossible, DecodeResult } from './shared/decode';

export const decodeRate: KindView<'decode-rate'> = {
  Line: DecodeLine,
  Live: DecodeLive,
  Result: ({ page }) => {
    const { summary, subject } = page.trial;
    return (
      <DecodeResult page={page}>{summary && <RateFigures result={summary} subject={subject} />}</DecodeResult>
    );
  },
  possible: ({ trial }) => decodePossible(trial, '/media/decode', (clipId) => ({ clipIds: [clipId] })),
};
