import type { TrialKind } from '@/core/kinds/kinds';
import type { KindRunner } from '../trialRun';
import { analysis } from './analysis';
import { calibration } from './calibration';
import { copy } from './copy';
import { decodeRate } from './decodeRate';
import { decodeStreams } from './decodeStreams';
import { decodeSupport } from './decodeSupport';
import { exporting } from './export';
import { opening } from './opening';
import { playback } from './playback';
import { prerender } from './prerender';
import { ramp } from './ramp';
import { renditions } from './renditions';
import { scrub } from './scrub';
import { selfCheck } from './selfCheck';
import { soak } from './soak';
import { streamsCarried } from './streamsCarried';
import { throughput } from './throughput';
import { verification } from './verification';

/** How each kind is taken to its end: a kind without a line here does not compile. */
export const kindRunners: { readonly [Kind in TrialKind]: KindRunner<Kind> } = {
  playback,
  scrub,
  ramp,
  calibration,
  'decode-rate': decodeRate,
  'decode-support': decodeSupport,
  'decode-streams': decodeStreams,
  throughput,
  'streams-carried': streamsCarried,
  copy,
  verification,
  renditions,
  export: exporting,
  'pre-render': prerender,
  analysis,
  opening,
  soak,
  'self-check': selfCheck,
};
