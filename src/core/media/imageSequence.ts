import { groupBy } from '../groups';

/** Endings of pictures that cameras, scanners and renderers write frame by frame. */
export const pictureEndings: ReadonlySet<string> = new Set([
  '.dpx',
  '.exr',
  '.tif',
  '.tiff',
  '.dng',
  '.jpg',
  '.jpeg',
  '.png',
  '.jp2',
  '.j2k',
  '.j2c',
]);

/** A clip whose frames are files of their own, in one folder, that differ by their number alone. */
export interface ImageSequence {
  /** What stands in front of the number, and behind it with the ending. */
  readonly prefix: string;
  readonly suffix: string;
  /** Digits of the number, filled with zeros; 1: as it comes. */
  readonly digits: number;
  /** Numbers that are there, first and last of each run. */
  readonly runs: readonly (readonly [number, number])[];
}

/** Numbers larger than this are dates or serial numbers and no frame's. */
const mostDigits = 9;

interface Numbered {
  readonly name: string;
  readonly prefix: string;
  readonly number: string;
  readonly suffix: string;
}

/** A file's name taken apart at each of its numbers; its ending is none. */
function numbersIn(name: string): Numbered[] {
  const dot = name.lastIndexOf('.');
  const stem = dot > 0 ? name.slice(0, dot) : name;
  return [...stem.matchAll(/\d+/g)].flatMap(({ 0: number, index }) =>
    number.length > mostDigits
      ? []
      : [{ name, prefix: name.slice(0, index), number, suffix: name.slice(index + number.length) }],
  );
}

const keyOf = ({ prefix, suffix }: Numbered) => `${prefix}\0${suffix}`;

/** Of the numbers from the first to the last, at least this share is there: fewer are pictures that were numbered by a counter. */
const leastThere = 0.5;

/**
 * Sorts names of pictures of one folder into sequences and loose ones. Two or more whose names differ by the number
 * alone are a sequence, unless most numbers between them are missing.
 */
export function findSequences(names: Iterable<string>): {
  readonly sequences: readonly ImageSequence[];
  readonly loose: readonly string[];
} {
  const all = [...names].map((name) => ({ name, numbers: numbersIn(name) }));
  const sharers = groupBy(
    all.flatMap(({ numbers }) => numbers),
    keyOf,
  );
  const sharersOf = (one: Numbered) => sharers.get(keyOf(one))?.length ?? 0;
  // The number by which a name differs from most others; of several the last.
  const best = all.map(({ numbers }) =>
    numbers.reduceRight<Numbered | null>(
      (found, one) => (found && sharersOf(found) >= sharersOf(one) ? found : one),
      null,
    ),
  );
  const loose = all.flatMap(({ name }, at) => (best[at] ? [] : [name]));
  const groups = groupBy(
    best.filter((one) => one !== null),
    keyOf,
  );
  const sequences: ImageSequence[] = [];
  for (const group of [...groups.values()].flatMap(byDigits)) {
    const { prefix, suffix } = group.members[0] as Numbered;
    const numbers = group.members.map(({ number }) => Number(number)).sort((a, b) => a - b);
    const span = (numbers.at(-1) as number) - (numbers[0] as number) + 1;
    if (numbers.length < 2 || numbers.length < span * leastThere)
      loose.push(...group.members.map(({ name }) => name));
    else sequences.push({ prefix, suffix, digits: group.digits, runs: runsOf(numbers) });
  }
  return { sequences, loose };
}

/** Sorts names that differ by a number by how it is written: filled up with zeros to so many digits, or as it comes. */
function byDigits(members: readonly Numbered[]): { digits: number; members: Numbered[] }[] {
  const isFilled = ({ number }: Numbered) => number.length > 1 && number.startsWith('0');
  const widths = new Set(members.filter(isFilled).map(({ number }) => number.length));
  const sorted = groupBy(members, ({ number }) => (widths.has(number.length) ? number.length : 1));
  return [...sorted].map(([digits, those]) => {
    const [first] = those as [Numbered];
    const alike = digits === 1 && those.every(({ number }) => number.length === first.number.length);
    return { digits: alike ? first.number.length : digits, members: those };
  });
}

function runsOf(numbers: readonly number[]): [number, number][] {
  const runs: [number, number][] = [];
  for (const number of numbers) {
    const last = runs.at(-1);
    if (last && number === last[1] + 1) last[1] = number;
    else runs.push([number, number]);
  }
  return runs;
}

/** The name by which a sequence is listed: a number sign for each digit, as the trade writes it. "plate.####.exr" */
export const sequenceName = ({ prefix, suffix, digits }: ImageSequence): string =>
  `${prefix}${'#'.repeat(digits)}${suffix}`;

const fileName = ({ prefix, suffix, digits }: ImageSequence, number: number): string =>
  `${prefix}${String(number).padStart(digits, '0')}${suffix}`;

/** Names of a sequence's files, in the order of its frames. */
export function sequenceFiles(sequence: ImageSequence): string[] {
  return sequence.runs.flatMap(([first, last]) =>
    Array.from({ length: last - first + 1 }, (_, at) => fileName(sequence, first + at)),
  );
}

/** The file of each frame from the first number to the last. Where one is missing, that of the frame before stands in. */
export function frameFiles(sequence: ImageSequence): string[] {
  const files: string[] = [];
  let next = Number.NaN;
  for (const [first, last] of sequence.runs) {
    for (; next < first; next++) files.push(files.at(-1) as string);
    for (next = first; next <= last; next++) files.push(fileName(sequence, next));
  }
  return files;
}

/** Frames of a sequence that are not there: "1040 to 1043, 1051". */
export function gapsOf({ runs }: ImageSequence): { readonly frames: number; readonly words: string } {
  const gaps = runs
    .slice(1)
    .map(([first], at) => [(runs[at] as readonly [number, number])[1] + 1, first - 1] as const);
  const named = gaps
    .slice(0, 6)
    .map(([first, last]) => (first === last ? `${first}` : `${first} to ${last}`));
  const more = gaps.length - named.length;
  return {
    frames: gaps.reduce((sum, [first, last]) => sum + last - first + 1, 0),
    words: named.join(', ') + (more > 0 ? ` and ${more} more places` : ''),
  };
}

/** First and last number of a sequence. */
export const sequenceSpan = ({ runs }: ImageSequence): readonly [number, number] => [
  (runs[0] as readonly [number, number])[0],
  (runs.at(-1) as readonly [number, number])[1],
];
