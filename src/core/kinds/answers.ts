import { decodeSentence } from '../decode/sentence';
import { answerSentence, causeLabel } from '../playback/sentence';
import { scrubSentence } from '../scrub/analyse';
import { copySentence } from '../storage/copy';
import { throughputSentence } from '../storage/sentence';
import { streamsSentence } from '../storage/streams';
import { toNumber, type Rational } from '../time/rational';
import { costsSentence } from '../timeline/effectCosts';
import { rampSentence } from '../timeline/ramp';
import type { TrialKind } from './kinds';
import type { Finding, RenditionSummary } from './summaries';

const unknownRate: Rational = { num: 0, den: 1 };
const perSecond = (rate: Rational | null) => toNumber(rate ?? unknownRate);

type Answers = { readonly [Kind in TrialKind]: (finding: Finding<Kind>) => string };

/** The answer of each kind of trial in a sentence or two. */
const answers: Answers = {
  playback: ({ summary, rate }) => answerSentence(summary, perSecond(rate)),
  'self-check': ({ summary, rate }) =>
    summary.selfCheck
      ? summary.selfCheck.trusted
        ? 'The measurement can be trusted on this rig.'
        : summary.selfCheck.reasons.join(' ')
      : answerSentence(summary, perSecond(rate)),
  scrub: ({ summary }) => scrubSentence(summary),
  ramp: ({ summary }) => rampSentence(summary, causeLabel),
  calibration: ({ summary }) => costsSentence(summary),
  'decode-rate': (finding) =>
    decodeSentence(finding.summary, finding.rate ?? unknownRate, finding.deviceName),
  'decode-support': (finding) =>
    decodeSentence(finding.summary, finding.rate ?? unknownRate, finding.deviceName),
  'decode-streams': (finding) =>
    decodeSentence(finding.summary, finding.rate ?? unknownRate, finding.deviceName),
  throughput: ({ summary, framePacedStreams: streams }) =>
    throughputSentence(summary, streams === null ? null : { streams }),
  'streams-carried': ({ summary }) => streamsSentence(summary),
  copy: ({ summary, verified }) => copySentence(summary, verified),
  renditions: ({ summary }) => renditionsSentence(summary),
};

/** How many clips of a batch came to what. */
export function renditionsSentence({ items, made, present, failed }: RenditionSummary): string {
  const parts = [
    `${made} of ${items} made`,
    present > 0 ? `${present} there already` : '',
    failed > 0 ? `${failed} failed` : '',
  ].filter(Boolean);
  return `${parts.join(', ')}.`;
}

/** What a trial found, in a sentence or two. */
export function answerOf(finding: Finding): string {
  return (answers[finding.kind] as (finding: Finding) => string)(finding);
}
