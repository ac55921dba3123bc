import { isOneOf, trialKinds, type TrialKind } from '@/core/kinds/kinds';
import { startDecodeRates, startDecodeStreams, startDecodeSupport } from './decode';
import { RequestError } from './errors';
import { checked } from './http';
import { startRenditions } from './renditions';
import { startCopy, startStreams, startThroughput } from './storage';
import { startTimelinePlayback } from './timelines';
import { startCosts, startRamp, startScrub } from './timelineTrials';
import { startPlayback, startSelfCheck } from './trials';
import { playbackInput, timelinePlaybackInput } from '@/core/kinds/playback';
import { scrubInput } from '@/core/kinds/scrub';
import { rampInput } from '@/core/kinds/ramp';
import { costsInput } from '@/core/kinds/calibration';
import { decodeRateInput } from '@/core/kinds/decodeRate';
import { decodeSupportInput } from '@/core/kinds/decodeSupport';
import { decodeStreamsInput } from '@/core/kinds/decodeStreams';
import { throughputInput } from '@/core/kinds/throughput';
import { streamsInput } from '@/core/kinds/streamsCarried';
import { copyInput } from '@/core/kinds/copy';
import { renditionInput } from '@/core/kinds/renditions';

type Body = Readonly<Record<string, unknown>>;

/** How trials of each kind are asked for: from what is sent to those that wait. Answers with their ids. */
const starters: { readonly [Kind in TrialKind]: (body: Body) => Promise<string | string[]> } = {
  playback: async (body) =>
    typeof body.timelineId === 'string'
      ? startTimelinePlayback(body.timelineId, await checked(body, timelinePlaybackInput))
      : startPlayback(await checked(body, playbackInput)),
  'self-check': startSelfCheck,
  scrub: async (body) => startScrub(await checked(body, scrubInput)),
  ramp: async (body) => startRamp(await checked(body, rampInput)),
  calibration: async (body) => startCosts(await checked(body, costsInput)),
  'decode-rate': async (body) => startDecodeRates(await checked(body, decodeRateInput)),
  'decode-support': async (body) => startDecodeSupport(await checked(body, decodeSupportInput)),
  'decode-streams': async (body) => startDecodeStreams(await checked(body, decodeStreamsInput)),
  throughput: async (body) => startThroughput(await checked(body, throughputInput)),
  'streams-carried': async (body) => startStreams(await checked(body, streamsInput)),
  copy: async (body) => startCopy(await checked(body, copyInput)),
  renditions: async (body) => startRenditions(await checked(body, renditionInput)),
};

/** Queues trials of the kind that is named in what was sent. Returns their ids. @throws RequestError with the field at fault */
export async function startTrials(sent: unknown): Promise<string[]> {
  const { kind, ...body } = (typeof sent === 'object' && sent !== null ? sent : {}) as Body;
  if (typeof kind !== 'string' || !isOneOf<TrialKind>(trialKinds, kind as TrialKind))
    throw new RequestError(`Say which kind of trial: ${trialKinds.join(', ')}.`, 400, 'kind');
  const ids = await starters[kind as TrialKind](body);
  return typeof ids === 'string' ? [ids] : ids;
}
