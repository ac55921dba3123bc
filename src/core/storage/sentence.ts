import { count, megabytesPerSecond, percent, quantity } from '../format';
import type { CombinedFigures, ThroughputSummary } from './throughput';

/** A throughput result in a sentence or two: the sustained rate first. */
export function throughputSentence(
  { read, write }: ThroughputSummary,
  framePaced: { readonly streams: number } | null,
): string {
  if (framePaced && read) return framePacedSentence(read, framePaced.streams);
  const parts = [read && `reads ${sideSentence(read)}`, write && `writes ${sideSentence(write)}`].filter(
    (part) => part !== null,
  );
  if (parts.length === 0) return 'Nothing was transferred.';
  const text = parts.join('; ');
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}.`;
}

function sideSentence(figures: CombinedFigures): string {
  const { sustained, burst, spread } = figures;
  const fell = burst
    ? `, after ${quantity(burst.seconds, 's', 1)} (${quantity(burst.bytes / 1e9, 'GB', 2)}) at ${megabytesPerSecond(burst.median)}`
    : '';
  return `${megabytesPerSecond(sustained)} sustained${fell}${spread === null ? '' : `, repeats within ${percent(spread, 0)}`}`;
}

function framePacedSentence({ missed, blocks, sustained }: CombinedFigures, streams: number): string {
  const what = streams === 1 ? 'one stream' : `${streams} streams`;
  return missed === 0
    ? `Every frame of ${what} came in time, at ${megabytesPerSecond(sustained)}.`
    : `${count(missed)} of ${count(Math.max(blocks, missed))} frames of ${what} came too late.`;
}
