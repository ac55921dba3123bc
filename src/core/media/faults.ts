import { count } from '../format';
import { groupBy } from '../groups';
import type { FrameIndex } from './frameIndex';
import { isDisposable } from './packetTable';

/** Why a decoder makes no picture of a frame: what to do about it differs. `no-picture`: it gives none, and no reason. */
export const refusals = ['damage', 'feature', 'memory', 'unknown', 'no-picture'] as const;
export type Refusal = (typeof refusals)[number];

/** What a decoder tells of a frame that is not whole. `concealed`: it made a picture, parts of which are guessed. */
export type FrameFault = Refusal | 'concealed';

/** What is wrong with frames of a clip. `built-on`: they may refer to one that is missing or concealed, though the decoder says nothing. */
export const clipFaultKinds = [...refusals, 'concealed', 'built-on'] as const;
export type ClipFaultKind = (typeof clipFaultKinds)[number];

/** First and last of frames or slots that follow each other. */
export type Range = readonly [number, number];

/** Frames of a clip that are not whole, by what is wrong with them. */
export type ClipFaults = { readonly [Kind in ClipFaultKind]?: readonly Range[] };

/** Joins numbers that follow each other. */
export function rangesOf(numbers: Iterable<number>): Range[] {
  const ranges: [number, number][] = [];
  for (const number of [...new Set(numbers)].sort((a, b) => a - b)) {
    const last = ranges.at(-1);
    if (last && number === last[1] + 1) last[1] = number;
    else ranges.push([number, number]);
  }
  return ranges;
}

/** How many frames or slots some ranges hold. */
export function countIn(ranges: readonly Range[] = []): number {
  return ranges.reduce((sum, [first, last]) => sum + last - first + 1, 0);
}

/** 1 where some ranges hold a number from 0 to before `length`. */
export function marksOf(ranges: readonly Range[] = [], length: number): Uint8Array {
  const marks = new Uint8Array(length);
  for (const [first, last] of ranges) marks.fill(1, first, last + 1);
  return marks;
}

/** Frames of which a decoder made no picture. */
export function refusedIn(faults: ClipFaults): number {
  return refusals.reduce((sum, kind) => sum + countIn(faults[kind]), 0);
}

/** Frames whose pictures are guessed in parts, or built on one that is or is missing. */
export function doubtfulFrames(faults: ClipFaults): Set<number> {
  return new Set([...(faults.concealed ?? []), ...(faults['built-on'] ?? [])].flatMap(framesOf));
}

/** Adds what a decoder tells of a frame to what was told before: one that was refused once counts as refused, and a reason stays. */
export function addFault(told: Map<number, FrameFault>, frame: number, fault: FrameFault): void {
  const known = told.get(frame);
  const says = (one: FrameFault) => (one === 'concealed' ? 0 : one === 'no-picture' ? 1 : 2);
  if (known === undefined || says(fault) >= says(known)) told.set(frame, fault);
}

/** What decoders told of a clip's frames, with the frames that are built on those. */
export function clipFaults(index: FrameIndex, told: ReadonlyMap<number, FrameFault>): ClipFaults {
  return faultsByKind([
    ...framesBuiltOn(index, told.keys()).map((frame): [number, ClipFaultKind] => [frame, 'built-on']),
    ...told,
  ]);
}

/** Faults of two looks at a clip. */
export function mergeFaults(index: FrameIndex, earlier: ClipFaults, later: ClipFaults): ClipFaults {
  const told = new Map<number, FrameFault>();
  for (const faults of [earlier, later]) {
    for (const kind of [...refusals, 'concealed'] as const)
      for (const range of faults[kind] ?? [])
        for (const frame of framesOf(range)) addFault(told, frame, kind);
  }
  return clipFaults(index, told);
}

/** Groups frames by their fault; of several of one frame the last counts. */
export function faultsByKind(faults: Iterable<readonly [number, ClipFaultKind]>): ClipFaults {
  const byKind = groupBy(new Map(faults), ([, kind]) => kind);
  return Object.fromEntries(
    clipFaultKinds.flatMap((kind) => {
      const found = byKind.get(kind);
      return found ? [[kind, rangesOf(found.map(([frame]) => frame))]] : [];
    }),
  );
}

function framesOf([first, last]: Range): number[] {
  return Array.from({ length: last - first + 1 }, (_, at) => first + at);
}

/** Frames that may refer to one of some frames, itself or by others: coded after it, and decoded from a key frame at or before it. */
function framesBuiltOn({ table, intra, keyRow }: FrameIndex, sources: Iterable<number>): number[] {
  const found: number[] = [];
  const of = new Set(sources);
  let lost = -1;
  for (let at = 0; !intra && at < table.length; at++) {
    const frame = table.slot[at] as number;
    if (of.has(frame)) {
      if (!isDisposable(table, at)) lost = at;
    } else if (lost >= (keyRow[frame] as number)) found.push(frame);
  }
  return found;
}

const frames = (count: number) => `${count} ${count === 1 ? 'frame' : 'frames'}`;
const subject = (count: number, one: string, many: string) => `${frames(count)} ${count === 1 ? one : many}`;

const fresh = 'Copy the file again from its source and compare the two.';

/** What to do about a fault. */
export const faultAdvice: Record<ClipFaultKind, string> = {
  damage: fresh,
  feature: 'Another copy will not help; choose another clip, or a rendition of it made elsewhere.',
  memory: 'Close other programs, or choose fewer streams or a smaller clip, then start again.',
  unknown: 'Try another copy of the file, then another clip of its kind, to learn which of them it is.',
  'no-picture': fresh,
  concealed: fresh,
  'built-on': fresh,
};

/** A fault in a few words, for tables. */
const shortWords: Record<ClipFaultKind, string> = {
  damage: 'damaged',
  feature: 'beyond the decoder',
  memory: 'without memory',
  unknown: 'refused',
  'no-picture': 'without a picture',
  concealed: 'concealed',
  'built-on': 'built on those',
};

const sentences: Record<ClipFaultKind, (count: number) => string> = {
  damage: (count) => `${subject(count, 'is', 'are')} damaged and cannot be decoded`,
  feature: (count) => `${subject(count, 'uses', 'use')} a feature that the decoder does not have`,
  memory: (count) => `${subject(count, 'was', 'were')} not decoded for want of memory`,
  unknown: (count) => `${subject(count, 'was', 'were')} refused by the decoder`,
  'no-picture': (count) =>
    `the decoder gave no picture for ${frames(count)}, and no reason; they are damaged, or refer to one that is missing`,
  concealed: (count) =>
    `${subject(count, 'is', 'are')} damaged and concealed by the decoder, which guessed parts of the picture`,
  'built-on': (count) =>
    `${frames(count)} may refer to one that is missing or concealed; do not trust the picture`,
};

/** One kind of fault of a clip in words. */
export interface FaultWords {
  readonly kind: ClipFaultKind;
  readonly count: number;
  readonly short: string;
  readonly text: string;
}

/** Places that are told in full. */
const mostPlaces = 4;

/** A clip's faults in words, what cannot be shown first. @param placeOf a frame's timecode */
export function faultWords(faults: ClipFaults, placeOf: (frame: number) => string): FaultWords[] {
  return clipFaultKinds.flatMap((kind): FaultWords[] => {
    const ranges = faults[kind] ?? [];
    const count = countIn(ranges);
    if (count === 0) return [];
    const places = ranges
      .slice(0, mostPlaces)
      .map(([first, last]) => (first === last ? placeOf(first) : `${placeOf(first)} to ${placeOf(last)}`));
    const more =
      ranges.length > mostPlaces
        ? ` and ${ranges.length - mostPlaces} more ${ranges.length === mostPlaces + 1 ? 'place' : 'places'}`
        : '';
    return [
      {
        kind,
        count,
        short: `${count} ${shortWords[kind]}`,
        text: `At ${places.join(', ')}${more}: ${sentences[kind](count)}. ${faultAdvice[kind]}`,
      },
    ];
  });
}

/** What a result's sentence adds of frames that could not be decoded; empty without any. */
export function refusedNote(faults: ClipFaults | undefined): string {
  const count = faults ? refusedIn(faults) : 0;
  return count === 0 ? '' : ` ${frames(count)} of the clip could not be decoded.`;
}

/** What a result's sentence adds of pictures that were shown and are not to be trusted; empty without any. @param wrong those of them that are provably another frame */
export function doubtfulNote(doubtful: number, wrong: number): string {
  if (doubtful === 0) return '';
  const pictures = `${count(doubtful)} ${doubtful === 1 ? 'picture is' : 'pictures are'} concealed or built on a frame that is missing`;
  return ` ${pictures}${wrong > 0 ? `, ${count(wrong)} of them provably another frame` : ''}.`;
}

/** What a rendition holds in place of frames that could not be decoded; empty without any. */
export function repeatedNote(faults: ClipFaults | undefined): string {
  const count = faults ? refusedIn(faults) : 0;
  return count === 0
    ? ''
    : ` ${frames(count)} of the source could not be decoded; the one before is repeated there.`;
}

/** What of a clip's faults lies in the clip: memory is the rig's. */
export function faultsOfClip({ memory: _, ...faults }: ClipFaults): ClipFaults {
  return faults;
}

/** What a run met of frames that are not whole. */
export interface RunFaults {
  readonly clips: readonly {
    /** as the run calls it: its place in a timeline's media; empty where the clip is played by itself */ readonly media: string;
    readonly name: string;
    readonly faults: ClipFaults;
  }[];
  /** Slots whose pictures show frames that are concealed, or built on such. */
  readonly doubtful: readonly Range[];
}
