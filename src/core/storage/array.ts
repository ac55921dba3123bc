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
  /** Drives' worth of data in n drives: usable capacity, streaming read, streaming write. */
  readonly capacity: (drives: number) => number;
  readonly read: (drives: number) => number;
  readonly write: (drives: number) => number;
  /** Drives that may fail, whichever they are. */
  readonly mayFail: (drives: number) => number;
  /** Drive accesses for one small write. */
  readonly smallWrite: (drives: number) => number;
}

/** Patterson, Gibson and Katz 1988 for levels 1 and 5; two independent parities for 6. Streaming writes fill whole stripes, so they pay no parity read. */
const rules: Record<ArrayLevel, LevelRule> = {
  0: { fewest: 1, capacity: (n) => n, read: (n) => n, write: (n) => n, mayFail: () => 0, smallWrite: () => 1 },
  1: { fewest: 2, capacity: () => 1, read: (n) => n, write: () => 1, mayFail: (n) => n - 1, smallWrite: (n) => n },
  5: { fewest: 3, capacity: (n) => n - 1, read: (n) => n - 1, write: (n) => n - 1, mayFail: () => 1, smallWrite: () => 4 },
  6: { fewest: 4, capacity: (n) => n - 2, read: (n) => n - 2, write: (n) => n - 2, mayFail: () => 2, smallWrite: () => 6 },
  10: { fewest: 4, capacity: (n) => n / 2, read: (n) => n, write: (n) => n / 2, mayFail: () => 1, smallWrite: () => 2 },
};

/** What is wrong with a layout, in words; null when nothing is. */
export function layoutProblem({ level, drives }: ArrayLayout): string | null {
  const { fewest } = rules[level];
  if (!Number.isInteger(drives) || drives < fewest) return `Level ${level} needs at least ${fewest} ${fewest === 1 ? 'drive' : 'drives'}.`;
  if (level === 10 && drives % 2 === 1) return 'Level 10 needs an even number of drives.';
  return null;
}

/** What an array of equal drives offers. Bytes and bytes per second. */
export interface ArrayFigures {
  readonly usableBytes: number;
  readonly readBytesPerSecond: number;
  readonly writeBytesPerSecond: number;
  readonly mayFail: number;
  readonly smallWriteAccesses: number;
}

/**
 * @param slowestShare rate of the slowest drive as a share of the others': a stripe waits for it, a mirror's reads do not
 * @throws RangeError when the layout cannot be
 */
export function arrayFigures(layout: ArrayLayout, drive: Drive, slowestShare = 1): ArrayFigures {
  const problem = layoutProblem(layout);
  if (problem) throw new RangeError(problem);
  const { level, drives } = layout;
  const rule = rules[level];
  const readers = level === 1 ? drives - 1 + slowestShare : rule.read(drives) * slowestShare;
  return {
    usableBytes: rule.capacity(drives) * drive.bytes,
    readBytesPerSecond: readers * drive.readBytesPerSecond,
    writeBytesPerSecond: rule.write(drives) * drive.writeBytesPerSecond * slowestShare,
    mayFail: rule.mayFail(drives),
    smallWriteAccesses: rule.smallWrite(drives),
  };
}

/** Drives whose burst caches take a streaming write side by side. */
export function writeWidth({ level, drives }: ArrayLayout): number {
  return rules[level].write(drives);
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
export function rebuildExposure(layout: ArrayLayout, drive: Drive, annualFailure = 0.015, errorsPerBit = 1e-15, rebuildShare = 0.5): RebuildExposure | null {
  const { level, drives } = layout;
  const { mayFail } = arrayFigures(layout, drive);
  if (mayFail === 0) return null;
  const hours = drive.bytes / (Math.min(drive.readBytesPerSecond, drive.writeBytesPerSecond) * rebuildShare) / 3_600;
  const oneFails = 1 - (1 - annualFailure) ** (hours / hoursPerYear);
  const survives = mayFail - 1;
  // In a mirror of pairs only the partner matters; elsewhere any of the others.
  const others = level === 10 ? 1 : drives - 1;
  const bits = 8 * drive.bytes * (level === 1 || level === 10 ? 1 : drives - 1);
  return { hours, survives, lossChance: atLeast(survives + 1, others, oneFails), unreadableChance: survives === 0 ? 1 - Math.exp(-bits * errorsPerBit) : 0 };
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
