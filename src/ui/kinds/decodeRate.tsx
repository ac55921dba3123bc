'use client';
import { RateFigures } from '../decode/RateFigures';
import { decodeView } from './shared/decode';

export const decodeRate = decodeView<'decode-rate'>(
  ({ trial }) => <RateFigures result={trial.summary} subject={trial.subject} />,
  '/media/decode',
  (clipId) => ({ clipIds: [clipId] }),
);
