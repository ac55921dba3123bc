'use client';
import { DecodeStreamsFigures } from '../decode/DecodeStreamsFigures';
import { decodeView } from './shared/decode';

export const decodeStreams = decodeView<'decode-streams'>(
  ({ trial }) => <DecodeStreamsFigures result={trial.summary} />,
  '/media/decode',
  (clipId) => ({ clipId }),
);
