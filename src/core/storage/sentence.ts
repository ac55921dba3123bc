import { groupDigits } from '../digits';
import type { CombinedFigures, ThroughputSummary } from './throughput';

/** MB/s as sentences write it: whole numbers from 100 on. */
export function megabytesText(bytesPerSecond: number): string {
  const value = bytesPerSecond / 1e6;
  return `${value >= 100 ? groupDigits(Math.round(value)) : value.toFixed(1)} MB/s`;
}

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
    ? `, after ${burst.seconds.toFixed(1)} s (${(burst.bytes / 1e9).toFixed(2)} GB) at ${megabytesText(burst.median)}`
    : '';
  return `${megabytesText(sustained)} sustained${fell}${spread === null ? '' : `, repeats within ${(spread * 100).toFixed(0)} %`}`;
}

function framePacedSentence({ missed, blocks, sustained }: CombinedFigures, streams: number): string {
  const what = streams === 1 ? 'one stream' : `${streams} streams`;
  return missed === 0
    ? `Every frame of ${what} came in time, at ${megabytesText(sustained)}.`
    : `${groupDigits(missed)} of ${groupDigits(Math.max(blocks, missed))} frames of ${what} came too late.`;
}
