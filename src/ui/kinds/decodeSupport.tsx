'use client';
import { SupportFigures } from '../decode/SupportFigures';
import type { KindView } from './kind';
import { DecodeLine, DecodeLive, decodePossible, DecodeResult } from './shared/decode';

export const decodeSupport: KindView<'decode-support'> = {
  Line: DecodeLine,
  Live: DecodeLive,
  Result: ({ page }) => {
    const { summary, subject } = page.trial;
    return (
      <DecodeResult page={page}>
        {summary && <SupportFigures result={summary} device={subject.device} />}
      </DecodeResult>
    );
  },
  possible: ({ trial }) =>
    decodePossible(trial, '/media/support', (clipId) => ({
      clipIds: [clipId],
      deviceIds: [trial.settings.deviceId],
    })),
};
