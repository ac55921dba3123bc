import { identity, lazy, object, type InferType, type ISchema, type Sendable } from '../edge/strict';
import { analysisInput } from '../kinds/analysis';
import { costsInput } from '../kinds/calibration';
import { copyInput } from '../kinds/copy';
import { verificationInput } from '../kinds/verification';
import { decodeRateInput } from '../kinds/decodeRate';
import { decodeStreamsInput } from '../kinds/decodeStreams';
import { decodeSupportInput } from '../kinds/decodeSupport';
import { exportInput } from '../kinds/export';
import type { TrialKind } from '../kinds/kinds';
import { openingInput } from '../kinds/opening';
import { playbackInput, timelinePlaybackInput } from '../kinds/playback';
import { prerenderInput } from '../kinds/prerender';
import { rampInput } from '../kinds/ramp';
import { renditionInput } from '../kinds/renditions';
import { scrubInput } from '../kinds/scrub';
import { soakInput } from '../kinds/soak';
import { streamsInput } from '../kinds/streamsCarried';
import { throughputInput } from '../kinds/throughput';

const timelineRun = timelinePlaybackInput.shape({ timelineId: identity().required('Choose a timeline.') });
/** Of a timeline where one is named, else of a clip. */
const playedInput = lazy((body: unknown): typeof timelineRun | typeof playbackInput => {
  const { timelineId } = (body ?? {}) as { timelineId?: unknown };
  return timelineId === undefined || timelineId === null ? playbackInput : timelineRun;
});

/** What a trial of each kind is asked for by, besides its kind. */
export const trialInputs = {
  playback: playedInput,
  scrub: scrubInput,
  ramp: rampInput,
  calibration: costsInput,
  'decode-rate': decodeRateInput,
  'decode-support': decodeSupportInput,
  'decode-streams': decodeStreamsInput,
  throughput: throughputInput,
  'streams-carried': streamsInput,
  copy: copyInput,
  verification: verificationInput,
  renditions: renditionInput,
  export: exportInput,
  'pre-render': prerenderInput,
  analysis: analysisInput,
  opening: openingInput,
  soak: soakInput,
  'self-check': object({}),
} as const satisfies { readonly [Kind in TrialKind]: ISchema<object> };

export type TrialInput<Kind extends TrialKind> = InferType<(typeof trialInputs)[Kind]>;

/** What a trial of a kind may be asked for by; of a playback, of a clip or of a timeline. */
type Sent<Kind extends TrialKind> = Kind extends 'playback'
  ? Sendable<typeof playbackInput> | Sendable<typeof timelineRun>
  : Sendable<(typeof trialInputs)[Kind]>;
/** A trial as it is asked for, with its kind; a further attempt names the first one. */
export type TrialAsked<Kind extends TrialKind = TrialKind> = {
  readonly [Each in Kind]: { readonly kind: Each; readonly attemptOf?: string } & Sent<Each>;
}[Kind];
