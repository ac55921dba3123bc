import type { TrialKind } from '@/core/kinds/kinds';
import type { KindRunner } from '../trialRun';
import { calibration, ramp, scrub } from './timeline';
import { copy } from './copy';
import { decodeRate, decodeStreams, decodeSupport } from './decode';
import { played } from './played';
import { renditions } from './renditions';
import { streamsCarried, throughput } from './storage';

/** How each kind is taken to its end: a kind without a line here does not compile. */
export const kindRunners: { readonly [Kind in TrialKind]: KindRunner<Kind> } = {
  playback: played as unknown as KindRunner<'playback'>,
  'self-check': played as unknown as KindRunner<'self-check'>,
  scrub,
  ramp,
  calibration,
  'decode-rate': decodeRate,
  'decode-support': decodeSupport,
  'decode-streams': decodeStreams,
  throughput,
  'streams-carried': streamsCarried,
  copy,
  renditions,
};
