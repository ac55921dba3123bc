import { quantity, fixed } from '../format';
import { doubtfulNote } from '../media/faults';
import type { ScrubSummary } from '../scrub/analyse';
import type { EffectCosts } from '../timeline/effectCosts';
import type { EffectKind } from '../timeline/model';
import { effectName } from '../timeline/parts';
import { type RampResult, levelLabel } from '../timeline/ramp';

/** The answer of a calibration in a sentence. */
export function costsSentence({ width, height, scales, deep = [] }: EffectCosts): string {
  const [first] = scales;
  const dearest = Object.entries(first?.effects ?? {}).sort((a, b) => b[1] - a[1])[0];
  if (!first || !dearest) return 'No effect was calibrated.';
  const wide = deep.find(({ scale }) => scale === first.scale);
  const sixteen = wide ? ` in 8 bits and ${quantity(wide.baseUs / 1000, 'ms', 1)} in 16` : '';
  return `At ${first.scale} scale of ${width}x${height} a plain layer takes ${quantity(first.baseUs / 1000, 'ms', 1)}${sixteen}; the dearest effect is ${effectName({ kind: dearest[0] as EffectKind })}, which adds ${quantity(dearest[1] / 1000, 'ms', 1)}.`;
}

/** The answer of a ramp in a sentence. @param late who was late, in words, by the bits of a charge */
export function rampSentence({ family, edges }: RampResult, late: (charge: number) => string): string {
  return edges
    .map(({ scale, plays, drops, charge }) => {
      const name = `${scale[0]?.toUpperCase()}${scale.slice(1)} scale`;
      if (drops === null) return `${name} plays ${levelLabel(family, plays)}, the most that was tried.`;
      if (plays === 0) return `${name} does not play ${levelLabel(family, 1)}; ${late(charge)}.`;
      return `${name} plays ${levelLabel(family, plays)}; at ${drops} ${late(charge)}.`;
    })
    .join(' ');
}

/** The answer of a scrub trial in a sentence. */
export function scrubSentence({
  shown,
  requests,
  superseded,
  refused = 0,
  doubtful = 0,
  doubtfulWrong = 0,
  latencyMs,
  wrong,
  lagSlots,
}: ScrubSummary): string {
  const undecoded = refused > 0 ? ` ${refused} could not be decoded.` : '';
  if (!latencyMs) return `None of ${requests} positions was shown.${undecoded}`;
  const exact = wrong > doubtfulWrong ? ` ${wrong - doubtfulWrong} showed a wrong frame.` : '';
  return `A position was on screen after ${quantity(latencyMs.p50, 'ms', 0)} (p95 ${quantity(latencyMs.p95, 'ms', 0)}); ${shown} of ${requests} were shown${superseded > 0 ? `, ${superseded} ${superseded === 1 ? 'was' : 'were'} overtaken by newer ones` : ''}, and the picture was ${fixed(lagSlots.mean, 1)} slots behind on average.${undecoded}${exact}${doubtfulNote(doubtful, doubtfulWrong)}`;
}
