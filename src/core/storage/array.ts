import { faultAt, type Fault } from '../fault';

/** One drive. Rates in bytes per second; `accessUs` is what a jump to another place costs. */
export interface Drive {
  readonly label: string;
  readonly bytes: number;
  readonly readBytesPerSecond: number;
  readonly writeBytesPerSecond: number;
  readonly accessUs: number;
  /** A fast cache that takes the first bytes of a long write, or null. */
  readonly burst: { readonly bytes: number; readonly bytesPerSecond: number } | null;
}

export const arrayLevels = [0, 1, 5, 6, 10] as const;
export type ArrayLevel = (typeof arrayLevels)[number];

/** Drives that work together. A single drive is level 0 with one drive. */
export interface ArrayLayout {
  readonly level: ArrayLevel;
  readonly drives: number;
}

interface LevelRule {
  readonly fewest: number;
  /** Drives' worth of data in all of n drives: usable capacity, and what a stream is written to side by side. */
  readonly capacity: (drives: number) => number;
  /** Whole copies of the data, each of which serves clients by itself. */
  readonly copies: (drives: number) => number;
  /** Drives that may fail, whichever they are. */
  readonly mayFail: (drives: number) => number;
  /** One small write: drives it touches, and accesses of each of them. */
  readonly smallWrite: (drives: number) => { readonly drives: number; readonly accesses: number };
}

/** Patterson, Gibson and Katz 1988 for levels 1 and 5; two independent parities for 6. Streaming writes fill whole stripes, so they pay no parity read; small ones read data and parity before they write them. */
const rules: Record<ArrayLevel, LevelRule> = {
  0: {
    fewest: 1,
    capacity: (n) => n,
    copies: () => 1,
    mayFail: () => 0,
    smallWrite: () => ({ drives: 1, accesses: 1 }),
  },
  1: {
    fewest: 2,
    capacity: () => 1,
    copies: (n) => n,
    mayFail: (n) => n - 1,
    smallWrite: (n) => ({ drives: n, accesses: 1 }),
  },
  5: {
    fewest: 3,
    capacity: (n) => n - 1,
    copies: () => 1,
    mayFail: () => 1,
    smallWrite: () => ({ drives: 2, accesses: 2 }),
  },
  6: {
    fewest: 4,
    capacity: (n) => n - 2,
    copies: () => 1,
    mayFail: () => 2,
    smallWrite: () => ({ drives: 3, accesses: 2 }),
  },
  10: {
    fewest: 4,
    capacity: (n) => n / 2,
    copies: () => 2,
    mayFail: () => 1,
    smallWrite: () => ({ drives: 2, accesses: 1 }),
  },
};

/** How the drives of a layout share work. */
export interface ArrayShape {
  readonly copies: number;
  /** Drives of one copy, and drives' worth of data in it. */
  readonly drivesOfCopy: number;
  readonly width: number;
  readonly smallWrite: { readonly drives: number; readonly accesses: number };
}

export function arrayShape({ level, drives }: ArrayLayout): ArrayShape {
  const rule = rules[level];
  const copies = rule.copies(drives);
  return {
    copies,
    drivesOfCopy: drives / copies,
    width: rule.capacity(drives),
    smallWrite: rule.smallWrite(drives),
  };
}

/** What is wrong with a layout, in words; null when nothing is. */
export function layoutProblem({ level, drives }: ArrayLayout): Fault | null {
  const { fewest } = rules[level];
  if (!Number.isInteger(drives) || drives < fewest)
    return faultAt(null, 'array-too-few-drives', { level, fewest });
  if (level === 10 && drives % 2 === 1) return faultAt(null, 'array-odd-drives');
  return null;
}

/** What an array of equal drives offers to one client that reads or writes on and on. Bytes and bytes per second. */
export interface ArrayFigures {
  readonly usableBytes: number;
  /** One client reads one copy. */
  readonly readBytesPerSecond: number;
  readonly writeBytesPerSecond: number;
  readonly mayFail: number;
}

/** @throws RangeError when the layout cannot be */
export function arrayFigures(layout: ArrayLayout, drive: Drive): ArrayFigures {
  const problem = layoutProblem(layout);
  if (problem) throw new RangeError(problem.message);
  const { width } = arrayShape(layout);
  return {
    usableBytes: width * drive.bytes,
    readBytesPerSecond: width * drive.readBytesPerSecond,
    writeBytesPerSecond: width * drive.writeBytesPerSecond,
    mayFail: rules[layout.level].mayFail(layout.drives),
  };
}

/** Bytes that a drive reads or writes for one stream before it turns to another. */
export const turnBytes = 2 ** 20;

/**
 * Bytes per second that the drives give to streams side by side, all together where each gets alike: a copy that
 * serves one stream gives its full rate; where it has several, its drives get to another place after each turn.
 * @param requestBytes of one request: a large one is read in one go
 */
export function streamsRate(
  layout: ArrayLayout,
  drive: Drive,
  write: boolean,
  streams: number,
  requestBytes = 0,
): number {
  const { copies, width } = arrayShape(layout);
  const rate = write ? drive.writeBytesPerSecond : drive.readBytesPerSecond;
  // Writes go to all copies.
  const ofCopy = Math.max(1, Math.ceil(streams / (write ? 1 : copies)));
  const turn = Math.max(turnBytes, requestBytes / width);
  const given = ofCopy === 1 ? rate : turn / (drive.accessUs / 1e6 + turn / rate);
  return (Math.max(1, streams) * width * given) / ofCopy;
}

/** What may go wrong while one failed drive is rebuilt. */
export interface RebuildExposure {
  readonly hours: number;
  /** Further failures the array survives meanwhile. */
  readonly survives: number;
  /** Chance, 0 to 1, that more drives fail in these hours than it survives. */
  readonly lossChance: number;
  /** Chance, 0 to 1, that a sector needed for the rebuild cannot be read where nothing can replace it. */
  readonly unreadableChance: number;
}

const hoursPerYear = 8_766;

/**
 * Failures are taken as independent with a constant rate (exponential), read
 * errors as independent per bit; real drives of one batch fail together more often.
 * @param annualFailure chance that a drive fails within a year
 * @param errorsPerBit unreadable bits per bit read, as drives' data sheets state it
 * @param rebuildShare share of a drive's rate that a rebuild gets while the array is used
 * @returns null for a layout that cannot rebuild
 */
export function rebuildExposure(
  layout: ArrayLayout,
  drive: Drive,
  annualFailure = 0.015,
  errorsPerBit = 1e-15,
  rebuildShare = 0.5,
): RebuildExposure | null {
  const { level, drives } = layout;
  const { mayFail } = arrayFigures(layout, drive);
  if (mayFail === 0) return null;
  const hours =
    drive.bytes / (Math.min(drive.readBytesPerSecond, drive.writeBytesPerSecond) * rebuildShare) / 3_600;
  const oneFails = 1 - (1 - annualFailure) ** (hours / hoursPerYear);
  const survives = mayFail - 1;
  // In a mirror of pairs only the partner matters; elsewhere any of the others.
  const others = level === 10 ? 1 : drives - 1;
  const bits = 8 * drive.bytes * (level === 1 || level === 10 ? 1 : drives - 1);
  return {
    hours,
    survives,
    lossChance: atLeast(survives + 1, others, oneFails),
    unreadableChance: survives === 0 ? 1 - Math.exp(-bits * errorsPerBit) : 0,
  };
}

/** Chance of at least `wanted` successes in `trials` (binomial). */
function atLeast(wanted: number, trials: number, chance: number): number {
  let below = 0;
  let term = (1 - chance) ** trials;
  for (let k = 0; k < wanted; k++) {
    below += term;
    term *= ((trials - k) / (k + 1)) * (chance / (1 - chance));
  }
  return Math.max(0, 1 - below);
}
