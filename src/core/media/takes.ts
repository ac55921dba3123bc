import { countingFor, formatTimecode, hasTimecode, isDropFrameText, parseTimecode } from '../time/timecode';
import { fileName } from './fileName';
import type { Format } from './format';
import {
  packetTableFrom,
  frameTypes,
  isDisposable,
  isKey,
  type PacketRow,
  type PacketTable,
} from './packetTable';

/** A clip that may be a part of a take which a camera wrote as several files. */
export interface TakePart {
  /** Within its volume. */
  readonly path: string;
  readonly sizeBytes: number;
  readonly format: Format;
  readonly frames: number;
  readonly startTimecode: string | null;
  /** The same for files that one decoder takes one after the other. */
  readonly coded: string;
  /** Of a stream whose clock runs on from file to file: time of its first frame, and of what would follow its last, in ticks of 90 kHz. Null for others. */
  readonly clock: { readonly first: number; readonly end: number } | null;
}

/** A file of a take, beside the others in one folder. */
export interface TakeFile {
  readonly name: string;
  readonly bytes: number;
}

/** Why parts are one take: their clock runs on; or their timecode does, and all but the last are as large as a part gets. */
export type TakeProof = 'clock' | 'timecode';

export interface Take {
  /** Indexes of its parts, in order. */
  readonly parts: readonly number[];
  readonly proof: TakeProof;
}

export interface FoundTakes {
  readonly takes: readonly Take[];
  /** Pairs that may belong together: the first is as large as a part gets, and nothing says for sure that the second goes on. */
  readonly doubtful: readonly (readonly [number, number])[];
}

const folderOf = (path: string) => path.slice(0, path.length - fileName(path).length);

/** Names that follow a name: each of its numbers is one more, with as many digits. */
function nextNames(name: string): string[] {
  const dot = name.lastIndexOf('.');
  const stem = dot > 0 ? name.slice(0, dot) : name;
  return [...stem.matchAll(/\d+/g)].flatMap(({ 0: digits, index }) =>
    // A chapter's number may stand in front of a clip's, without anything between.
    Array.from({ length: digits.length }, (_, at) => {
      const head = digits.slice(0, at + 1);
      const more = String(Number(head) + 1).padStart(head.length, '0');
      return more.length > head.length
        ? []
        : [`${name.slice(0, index)}${more}${digits.slice(at + 1)}${name.slice(index + digits.length)}`];
    }).flat(),
  );
}

/** Indexes of paths that one before or behind them in their folder may belong to, by their names. */
export function neighbours(paths: readonly string[]): ReadonlySet<number> {
  const at = new Map(paths.map((path, index) => [path, index]));
  const found = new Set<number>();
  paths.forEach((path, index) => {
    for (const name of nextNames(fileName(path))) {
      const next = at.get(folderOf(path) + name);
      if (next !== undefined) found.add(index).add(next);
    }
  });
  return found;
}

/** Sizes at which cameras begin another file: what file systems of cards hold at most. */
const partLimits = [2 ** 31, 2 ** 32, 2e9, 4e9];
/** So far below a limit a part may end: a camera ends it with a group of pictures. */
const belowLimit = 64e6;

const isFull = (bytes: number): boolean =>
  partLimits.some((limit) => bytes <= limit && bytes > limit - belowLimit);

/** Ticks of a clock's 33 bits. */
const clockTurn = 2 ** 33;
/** Ticks that a clock may be off where one file follows another. */
const clockOff = 90;

function clockGoesOn(first: TakePart, second: TakePart): boolean {
  if (!first.clock || !second.clock) return false;
  const off = (((second.clock.first - first.clock.end) % clockTurn) + clockTurn) % clockTurn;
  return Math.min(off, clockTurn - off) <= clockOff;
}

function timecodeGoesOn(first: TakePart, second: TakePart): boolean {
  const { startTimecode: from, format, frames } = first;
  if (from === null || second.startTimecode === null || !hasTimecode(format.rate)) return false;
  try {
    const counting = countingFor(format.rate, isDropFrameText(from));
    return (
      formatTimecode(parseTimecode(from, counting) + frames, counting) ===
      formatTimecode(parseTimecode(second.startTimecode, counting), counting)
    );
  } catch {
    return false;
  }
}

const isAlike = (one: TakePart, other: TakePart): boolean =>
  one.coded === other.coded &&
  one.format.width === other.format.width &&
  one.format.height === other.format.height &&
  one.format.rate.num === other.format.rate.num &&
  one.format.rate.den === other.format.rate.den;

/**
 * Finds the takes that a camera split over files of one folder with names that follow each other.
 * A clock that runs on is proof. A timecode alone is none, as many cameras let it run on from take to take: the first file must be
 * as large as a card's file system lets it become as well.
 */
export function findTakes(parts: readonly TakePart[]): FoundTakes {
  const at = new Map(parts.map(({ path }, index) => [path, index]));
  const next = new Map<number, { to: number; proof: TakeProof }>();
  const claimed = new Set<number>();
  const doubtful: [number, number][] = [];
  parts.forEach((part, index) => {
    const folder = folderOf(part.path);
    const followers = nextNames(fileName(part.path))
      .flatMap((name) => at.get(folder + name) ?? [])
      .filter((to) => isAlike(part, parts[to] as TakePart));
    const proofOf = (to: number): TakeProof | null => {
      const other = parts[to] as TakePart;
      if (clockGoesOn(part, other)) return 'clock';
      return isFull(part.sizeBytes) && timecodeGoesOn(part, other) ? 'timecode' : null;
    };
    const proved = followers.flatMap((to) => {
      const proof = proofOf(to);
      return proof ? [{ to, proof }] : [];
    });
    const [only] = proved;
    if (only && proved.length === 1 && !claimed.has(only.to)) {
      claimed.add(only.to);
      next.set(index, only);
      return;
    }
    const [perhaps] = followers;
    if (perhaps !== undefined && isFull(part.sizeBytes)) doubtful.push([index, perhaps]);
  });
  const takes = parts.flatMap((_, first): Take[] => {
    if (claimed.has(first) || !next.has(first)) return [];
    const chain = [first];
    let proof: TakeProof = 'clock';
    for (let link = next.get(first); link; link = next.get(link.to)) {
      chain.push(link.to);
      if (link.proof === 'timecode') proof = 'timecode';
    }
    return [{ parts: chain, proof }];
  });
  return { takes, doubtful };
}

/** The name by which a take of several files is listed: "00001.MTS to 00003.MTS", in the folder of its files. */
export const takePath = (paths: readonly string[]): string =>
  `${paths[0] as string} to ${fileName(paths.at(-1) as string)}`;

/**
 * The packets of a take: those of its parts one after the other, at their places in the files end to end.
 * @param sizes bytes of the files
 * @param step ticks of a frame
 */
export function joinedPackets(
  tables: readonly PacketTable[],
  sizes: readonly number[],
  step: number,
): PacketTable {
  const rows: PacketRow[] = [];
  let base = 0;
  let shownBefore = 0;
  tables.forEach((table, part) => {
    const times = [...table.pts].filter(Number.isFinite);
    const first = times.reduce((least, time) => Math.min(least, time), Infinity);
    const shift = part === 0 ? 0 : shownBefore - first;
    for (let row = 0; row < table.length; row++)
      rows.push({
        offset: base + (table.offset[row] as number),
        size: table.size[row] as number,
        pts: (table.pts[row] as number) + shift,
        dts: (table.dts[row] as number) + shift,
        key: isKey(table, row),
        disposable: isDisposable(table, row),
        type: frameTypes[table.type[row] as number] ?? '?',
        ...(table.inside && {
          inside: { skip: table.inside.skip[row] as number, bytes: table.inside.bytes[row] as number },
        }),
      });
    shownBefore = times.reduce((most, time) => Math.max(most, time), -Infinity) + shift + step;
    base += sizes[part] as number;
  });
  return packetTableFrom(rows);
}
