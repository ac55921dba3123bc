'use client';
import { DecodeStreamsFigures } from '../decode/DecodeStreamsFigures';
import type { KindView } from './kind';
import { DecodeLine, DecodeLive, decodePossible, DecodeResult } from './shared/decode';

export const decodeStreams: KindView<'decode-streams'> = {
  Line: DecodeLine,
  Live: DecodeLive,
  Result: ({ page }) => {
    const { summary } = page.trial;
    return <DecodeResult page={page}>{summary && <DecodeStreamsFigures result={summary} />}</DecodeResult>;
  },
  possible: ({ trial }) => decodePossible(trial, '/media/decode', (clipId) => ({ clipId })),
};
