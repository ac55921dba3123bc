'use client';
import { SupportFigures } from '../decode/SupportFigures';
import { decodeView } from './shared/decode';

export const decodeSupport = decodeView<'decode-support'>(
  ({ trial }) => <SupportFigures result={trial.summary} device={trial.subject.device} />,
  '/media/support',
  (clipId, { settings }) => ({ clipIds: [clipId], deviceIds: [settings.deviceId] }),
);
