'use client';
import { DecodeRateFigures } from '../decode/DecodeRateFigures';
import { decodeView } from './shared/decode';

export const decodeRate = decodeView<'decode-rate'>(
  ({ trial }) => <DecodeRateFigures result={trial.summary} subject={trial.subject} />,
  '/media/decode',
  (clipId) => ({ clipIds: [clipId] }),
);
