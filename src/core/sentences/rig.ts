import { fixed } from '../format';
import { type PulseSummary, pulseWords } from '../rig/pulse';

/** A run's pulse in words. */
export function pulseSentence({ referenceUs, medianUs, p90Us, bestUs }: PulseSummary): string {
  return `${pulseWords(medianUs)} (p90 ${fixed(p90Us / 1000, 3)}), ${fixed(referenceUs / 1000, 3)} before${bestUs === null ? '' : `, ${fixed(bestUs / 1000, 3)} at its best`}`;
}
