import type { KindFacts } from './kind';
import { playedAnswer, playedFacts, type PlayedShape } from './shared/played';

/** Playback with faults injected on purpose: whether the rig's measurements can be trusted. */
export type SelfCheck = PlayedShape;
export const selfCheck: KindFacts<SelfCheck> = {
  ...playedFacts,
  name: 'Self-check',
  once: 'A self-check is repeated on the Rig page.',
  answer: (finding) => {
    const { selfCheck: found } = finding.summary;
    if (!found) return playedAnswer(finding);
    return found.trusted ? 'The measurement can be trusted on this rig.' : found.reasons.join(' ');
  },
};
