import { count, megabytesPerSecond, percent, quantity, size } from '../format';
import type { Staircase } from '../storage/underWay';
import type { StreamsSummary } from '../storage/streams';
import type { LadderCell } from '../storage/ladder';
import type { CopyResult } from '../storage/copy';
import type { VerificationResult } from '../storage/heldAgainst';
import type { CombinedFigures, ThroughputSummary } from '../storage/throughput';

/** A throughput result in a sentence or two: the sustained rate first. */
export function throughputSentence(
  { read, write, staircase }: ThroughputSummary,
  framePaced: { readonly streams: number } | null,
): string {
  if (staircase) return staircaseSentence(staircase);
  if (framePaced && read) return framePacedSentence(read, framePaced.streams);
  const parts = [read && `reads ${sideSentence(read)}`, write && `writes ${sideSentence(write)}`].filter(
    (part) => part !== null,
  );
  if (parts.length === 0) return 'Nothing was transferred.';
  const text = parts.join('; ');
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}.`;
}

function staircaseSentence({ steps, needed }: Staircase): string {
  const rateOf = (underWay: number) =>
    megabytesPerSecond(steps.find((step) => step.underWay === underWay)?.figures.sustained);
  const most = steps.at(-1)?.underWay ?? needed;
  return needed === 1
    ? `Gives its full rate with one request under way: reads ${rateOf(1)}, and no more with up to ${most}.`
    : `Needs ${needed} requests under way for its full rate: reads ${rateOf(needed)} with them, ${rateOf(1)} with one.`;
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

/** A copy's result in a sentence. */
export function copySentence(
  { files, copied, present, conflicts, damaged, bytes }: CopyResult,
  verified: boolean,
): string {
  const problems = [
    damaged > 0 && `${count(damaged)} ${damaged === 1 ? 'differs' : 'differ'} when read back`,
    conflicts > 0 && `${count(conflicts)} had different content there and were left alone`,
  ].filter((part) => typeof part === 'string');
  const what = `${count(copied + present)} of ${count(files)} files, ${size(bytes)} in all, ${verified ? 'copied and verified' : 'copied, not verified'}`;
  return `${what}${present > 0 ? `; ${count(present)} were already there` : ''}${problems.length > 0 ? `; ${problems.join('; ')}` : ''}.`;
}

/** What a folder came to against its hash list, in a sentence. */
export function verificationSentence(result: VerificationResult): string {
  const { files, bytes, same, extra, folders } = result;
  const problems = (
    [
      ['changed', 'changed'],
      ['missing', 'missing'],
      ['moved', 'lying elsewhere in the folder'],
      ['unreadable', 'not readable'],
      ['unproved', 'without a hash that can be computed here'],
    ] as const
  ).flatMap(([outcome, words]) => (result[outcome] > 0 ? [`${count(result[outcome])} ${words}`] : []));
  const more = extra > 0 ? `; ${count(extra)} not in the list` : '';
  if (problems.length > 0 || same < files)
    return `${count(same)} of ${count(files)} files are what the list has: ${[...problems, ...(folders.changed > 0 ? [`${count(folders.changed)} folders with other hashes`] : [])].join(', ') || 'the rest was not reached'}${more}.`;
  return `All ${count(files)} files, ${size(bytes)} in all, are what the list has${folders.changed > 0 ? `; ${count(folders.changed)} folders have other hashes` : ''}${more}.`;
}

/** A ramp's result in a sentence. */
export function streamsSentence({ clean, missed, limit, arithmetic }: StreamsSummary): string {
  const count = (streams: number) => `${streams} ${streams === 1 ? 'stream' : 'streams'}`;
  const measured =
    missed === null
      ? `Carries at least ${count(clean)}: no slot was missed up to the most that was tried`
      : clean === 0
        ? 'Does not carry one stream without missing slots'
        : `Carries ${count(clean)}, not ${missed}`;
  const why = {
    'this machine': ', limited by this machine’s own drive, not by the model',
    'data rate': ', limited by its data rate',
    'answer time': ', limited by its response time while data rate was left',
    'most streams tried': '',
    'ended before': '',
  }[limit];
  return `${measured}${why}.${arithmetic ? ` Arithmetic says ${arithmetic.streams}.` : ''}`;
}

/** A meeting of rung and band in a sentence. */
export function ladderSentence(
  name: string,
  volume: string,
  { fit, headroom: room, streams }: LadderCell,
  streamsWanted: number,
): string {
  const percent = Math.round(Math.abs(room) * 100);
  const count =
    streams === 1 ? 'one stream fits' : streams === 0 ? 'not one stream fits' : `${streams} streams fit`;
  const what = streamsWanted === 1 ? name : `${streamsWanted} streams of ${name}`;
  switch (fit) {
    case 'plays':
      return `${what} from ${volume}: plays with ${quantity(percent, '%')} headroom; ${count} with the margin.`;
    case 'without margin':
      return `${what} from ${volume}: plays, but inside the margin, with ${quantity(percent, '%')} headroom; ${count} with the margin.`;
    case 'too slow':
      return `${what} from ${volume}: too slow by ${quantity(percent, '%')}; ${count} with the margin.`;
  }
}
