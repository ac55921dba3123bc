import { quantity, times } from '../format';
import { grades, type Grade } from '../playback/grade';
import { headroom, requiredRate } from '../storage/required';
import { toNumber } from '../time/rational';
import type { Doubt } from '../rig/doubt';
import type { Format } from '../media/format';
import type { Brief } from './brief';
import { greatest } from '../stats/extremes';

/** One form of a camera's footage: a row of the map. */
export interface FormatRow {
  readonly id: string;
  readonly cameraId: string;
  readonly role: 'original' | 'proxy';
  readonly name: string;
  readonly format: Format;
  readonly meanBitsPerSecond: number;
  readonly peakBitsPerSecond: number;
}

/** Cameras that have a proxy among some rows. */
export function camerasWithProxy(rows: readonly Pick<FormatRow, 'cameraId' | 'role'>[]): ReadonlySet<string> {
  return new Set(rows.filter(({ role }) => role === 'proxy').map(({ cameraId }) => cameraId));
}

/** A finished playback trial of a cell's conditions. */
export interface CellRun {
  readonly trialId: string;
  readonly grade: Grade;
  readonly dropped: number;
  readonly slots: number;
  /** Mean time of the slowest stage per slot, ms. */
  readonly slowestMs: number;
  /** What would have cured its drops, in words. */
  readonly cures: readonly string[];
  readonly doubt: Doubt['word'] | null;
}

/** A rate with where it comes from. */
export interface KnownRate {
  readonly value: number;
  readonly from: 'measured' | 'model';
  readonly trialId: string | null;
  /** Streams that it is for, all together; absent: one. */
  readonly streams?: number;
}

/** What is known of a cell. */
export interface CellEvidence {
  /** Newest first. Excluded ones are not among them. */
  readonly runs: readonly CellRun[];
  /** Sustained reading of the volume, bytes per second. */
  readonly volume: KnownRate | null;
  /** Decoding of the format on all cores, frames per second. */
  readonly decode: KnownRate | null;
  /** Time of the process stage at the brief's scale, ms per slot of one stream; null when never measured. */
  readonly processMs: number | null;
}

export type CellBasis = 'measured' | 'arithmetic' | 'unknown';

/** What a cell of the map says. */
export interface Judgement {
  readonly basis: CellBasis;
  readonly grade: Grade | null;
  /** Capacity over demand, minus one, the margin not counted in; null while unknown. */
  readonly headroom: number | null;
  /** There is headroom, but less than the brief's margin. */
  readonly underMargin: boolean;
  /** What sets the headroom. */
  readonly limit: 'volume' | 'decoding' | 'decoding and processing' | 'slowest stage' | null;
  /** Null while unknown. */
  readonly meets: boolean | null;
  /** What would make it meet the brief, in words; null where it does or nothing is known. */
  readonly cure: string | null;
  /** What is still to be measured. */
  readonly missing: readonly ('volume' | 'decoding')[];
  /** Only runs in doubt are there. */
  readonly isDoubtful: boolean;
}

/** Newest runs that are judged together: the worst of them counts. */
const runsJudged = 5;

/** Whether a grade is at least as good as another. */
export function reaches(grade: Grade, wanted: Grade): boolean {
  return grades.indexOf(grade) <= grades.indexOf(wanted);
}

/** The worse of two grades. */
export function worseGrade(a: Grade, b: Grade): Grade {
  return grades.indexOf(a) >= grades.indexOf(b) ? a : b;
}

/**
 * Judges a format on a volume for a brief. Measured runs of just these conditions
 * come first: the worst grade of the newest ones, steady and undisturbed ones before others,
 * and the slot's length over the slowest stage's mean time as headroom: it may be
 * above 0 where slots are uneven and some dropped all the same. Without any, arithmetic: the volume's rate against the required rate (`requiredRate`),
 * decoding and, where known, processing against the slot's length.
 */
export function judgeCell(row: FormatRow, brief: Brief, evidence: CellEvidence): Judgement {
  return evidence.runs.length > 0
    ? judgeRuns(row, brief, evidence.runs)
    : judgeByArithmetic(row, brief, evidence);
}

function judgeRuns(row: FormatRow, brief: Brief, all: readonly CellRun[]): Judgement {
  const quiet = all.filter(({ doubt }) => doubt === null);
  const runs = (quiet.length > 0 ? quiet : all).slice(0, runsJudged);
  const worst = runs.reduce(
    (bad, run) => (grades.indexOf(run.grade) > grades.indexOf(bad.grade) ? run : bad),
    runs[0] as CellRun,
  );
  const slotMs = 1000 / toNumber(row.format.rate);
  const meets = reaches(worst.grade, brief.grade);
  const slowestMs = greatest(runs.map((run) => run.slowestMs));
  const spare = slowestMs > 0 ? headroom(slotMs, slowestMs) : null;
  return {
    basis: 'measured',
    grade: worst.grade,
    headroom: spare,
    underMargin: isUnder(spare, brief.margin),
    limit: 'slowest stage',
    meets,
    cure: meets ? null : (worst.cures[0] ?? null),
    missing: [],
    isDoubtful: quiet.length === 0,
  };
}

/** Beyond this no rig is to be had. */
const fastestRig = 50;

function rigCure(factor: number, work: string): string {
  return factor < fastestRig
    ? `A rig ${times(factor, 1)} as fast at ${work} would do.`
    : `It needs more than ${fastestRig}x this rig's ${work}: proxies or another format would do, no rig.`;
}

function judgeByArithmetic(
  row: FormatRow,
  brief: Brief,
  { volume, decode, processMs }: CellEvidence,
): Judgement {
  const need = requiredRate(row, { streams: brief.streams, speed: brief.speed, margin: brief.margin });
  const rate = toNumber(row.format.rate);
  const parts: { limit: NonNullable<Judgement['limit']>; spare: number; cure: string }[] = [];
  if (volume)
    parts.push({
      limit: 'volume',
      spare: headroom(volume.value, need.peak),
      cure: `A volume that sustains ${quantity(need.required / 1e6, 'MB/s', 0)} would do.`,
    });
  if (decode) {
    // A shuttle decodes every frame it passes and processes those it shows.
    const perSlotMs = brief.streams * ((1000 * brief.speed) / decode.value + (processMs ?? 0));
    const spare = headroom(1000 / rate, perSlotMs);
    parts.push({
      limit: processMs === null ? 'decoding' : 'decoding and processing',
      spare,
      cure: rigCure(
        (1 + brief.margin) / (1 + spare),
        processMs === null ? 'decoding' : 'decoding and processing',
      ),
    });
  }
  const missing = [...(volume ? [] : ['volume' as const]), ...(decode ? [] : ['decoding' as const])];
  const least = parts.reduce<(typeof parts)[number] | null>(
    (low, part) => (low === null || part.spare < low.spare ? part : low),
    null,
  );
  const grade = least === null ? null : expectedGrade(least.spare, brief.margin);
  // Known parts can say no for certain; yes needs all of them.
  if (least === null || grade === null || (missing.length > 0 && reaches(grade, brief.grade)))
    return {
      basis: 'unknown',
      grade: null,
      headroom: null,
      underMargin: false,
      limit: null,
      meets: null,
      cure: null,
      missing,
      isDoubtful: false,
    };
  const meets = reaches(grade, brief.grade);
  return {
    basis: 'arithmetic',
    grade,
    headroom: least.spare,
    underMargin: isUnder(least.spare, brief.margin),
    limit: least.limit,
    meets,
    cure: meets ? null : least.cure,
    missing,
    isDoubtful: false,
  };
}

/**
 * The grade that arithmetic expects: solid with the margin kept, workable when
 * only the margin is missing, and below that the share of slots that capacity
 * covers as the share shown (with all-intra media a link at half the needed rate
 * shows every second frame).
 */
function expectedGrade(spare: number, margin: number): Grade {
  if (spare >= margin) return 'solid';
  if (spare >= 0) return 'workable';
  return 1 + spare >= 0.9 ? 'rough' : 'stalled';
}

/** Whether there is something to spare, and less than is wanted. */
export function isUnder(spare: number | null, margin: number): boolean {
  return spare !== null && spare >= 0 && spare < margin;
}
