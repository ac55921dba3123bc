import { groupBy } from '../groups';
import type { Doubt } from '../rig/doubt';
import {
  differenceOf,
  fewestForRatio,
  ratioOf,
  resampled,
  type Interval,
  type Resampled,
} from '../stats/bootstrap';
import { median } from '../stats/quantiles';
import { holm, rankSumChance } from '../stats/rankSum';
import { greatest, least } from '../stats/extremes';

/** A figure that repeats of a trial give. */
export interface Metric {
  readonly id: string;
  readonly name: string;
  readonly unit: string;
  readonly better: 'lower' | 'higher';
  /** `time` and `rate` are told as "x as fast" and "% less time"; `share` and `count` as they are. */
  readonly measures: 'time' | 'rate' | 'share' | 'count';
}

/** One repeat: its figures by metric; a metric it did not give is absent. */
export interface Repeat {
  readonly trialId: string;
  readonly href: string;
  readonly at: string;
  readonly values: Readonly<Record<string, number>>;
  /** Why it does not count, or null. */
  readonly excluded: string | null;
  readonly doubt: Doubt | null;
}

/** One of the things compared: repeats under the same conditions. */
export interface Side {
  readonly id: string;
  readonly name: string;
  readonly simulated: boolean;
  /** Conditions by name, in words. */
  readonly conditions: Readonly<Record<string, string>>;
  readonly repeats: readonly Repeat[];
}

export interface Difference {
  readonly condition: string;
  /** In the order of the sides; "not told" where one does not say. */
  readonly values: readonly string[];
  readonly asked: boolean;
  /** Another difference that this one comes with of itself; null for one that was made. */
  readonly comesWith: string | null;
}

/** What changes of itself with a condition: another volume has another model, another form is another file. */
const comesWith: Readonly<Record<string, readonly string[]>> = {
  Volume: ['Volume model', 'Link'],
  Form: ['Content', 'Clip content', 'Format', 'Decoder'],
  Footage: ['Content', 'Clip content', 'Format', 'Decoder', 'Course', 'Timeline version'],
  Content: ['Clip content', 'Format', 'Decoder', 'Course', 'Timeline version'],
  'From pre-rendered': ['Format', 'Decoder', 'Volume', 'Volume model', 'Link'],
  Format: ['Decoder'],
  Device: ['Decoder'],
  Rig: ['Processor', 'Memory', 'Graphics', 'System', 'Navvy', 'Governor', 'Decoder', 'Machine pulse'],
};

export const notTold = 'not told';

/**
 * Every condition in which sides differ: the one that was asked about is marked, and
 * those that come with another one of themselves name it. All that are neither may
 * be the reason just as well as what was asked about.
 */
export function differences(sides: readonly Pick<Side, 'conditions'>[], asked: string | null): Difference[] {
  const names = [...new Set(sides.flatMap(({ conditions }) => Object.keys(conditions)))];
  const found = names
    .map((condition) => ({
      condition,
      values: sides.map(({ conditions }) => conditions[condition] ?? notTold),
    }))
    .filter(({ values }) => new Set(values).size > 1);
  const differing = new Set(found.map(({ condition }) => condition));
  // What was asked about is the root first; then wider conditions before what they bring.
  const roots = [...(asked === null ? [] : [asked]), ...Object.keys(comesWith)].filter((name) =>
    differing.has(name),
  );
  return found.map(({ condition, values }) => ({
    condition,
    values,
    asked: condition === asked,
    comesWith:
      condition === asked
        ? null
        : (roots.find((root) => root !== condition && comesWith[root]?.includes(condition)) ?? null),
  }));
}

/** The repeats of a side that count: those in doubt only where there are not enough others. */
export function countedRepeats({ repeats }: Side, metricId: string): readonly Repeat[] {
  const told = repeats.filter(({ excluded, values }) => excluded === null && values[metricId] !== undefined);
  const sure = told.filter(({ doubt }) => doubt === null);
  return sure.length >= fewestForRatio ? sure : told;
}

/** Their figures of one metric. */
export function countedValues(side: Side, metricId: string): number[] {
  return countedRepeats(side, metricId).flatMap(({ values }) => values[metricId] ?? []);
}

/** One side's figures of one metric. */
export interface SideFigures {
  readonly values: readonly number[];
  readonly median: number;
  readonly low: number;
  readonly high: number;
}

/** A side against its base. */
export interface Against {
  readonly figures: SideFigures;
  /** The side that it is held against, by its place among the sides; null for a base. */
  readonly base: number | null;
  /** Times as fast, for times and rates, above 1 where this side is better; null for a base, for other figures, and where a median is 0. */
  readonly ratio: Interval | null;
  /** This less its base, for shares and counts; null for a base and for other figures. */
  readonly difference: Interval | null;
  /** Chance of a difference as large where there is none, corrected for all figures that are compared at once; null where nothing was tested. */
  readonly chance: number | null;
  readonly verdict: Verdict;
}

/** `too small to matter`: shown, and smaller than the least difference that matters. `may be chance`: shown by itself, but not among so many figures. */
export type Verdict =
  | 'base'
  | 'better'
  | 'worse'
  | 'no difference shown'
  | 'too small to matter'
  | 'may be chance'
  | 'too few repeats'
  | 'not comparable';

/** The least difference that matters, as a share, unless another one is chosen. */
export const leastThatMatters = 0.02;
/** A verdict is wrong in at most this share of comparisons of things that are alike. */
const level = 0.05;

/** A figure with every side held against its base. */
export interface MetricRow {
  readonly metric: Metric;
  readonly against: readonly Against[];
}

/** Draws of the bootstrap; half of them where many sides are compared at once. */
const [fewDraws, manyDraws, manySides] = [1_000, 2_000, 8];

function figuresOf(values: readonly number[]): SideFigures {
  return { values, median: median(values), low: least(values), high: greatest(values) };
}

/**
 * Which side each is held against: one that is alike in all that was made to differ
 * but what is asked about, so that a matrix of clips by forms holds each clip's proxy
 * against its own original. Of several, the first that has the first side's value of
 * what is asked about. A side that has no such counterpart is held against the first of all.
 * @param found differences of these sides, as `differences` gives them
 * @returns places among the sides; null for a base
 */
export function basesOf(sides: readonly unknown[], found: readonly Difference[]): (number | null)[] {
  const asked = found.find((difference) => difference.asked);
  // What goes along with what is asked about, such as a setting that was changed between two measurements, parts no counterparts.
  const goesAlong = ({ values }: Difference) =>
    asked !== undefined &&
    sides.every((_, at) => values[at] === values[asked.values.indexOf(asked.values[at] as string)]);
  const others = found.filter(
    (difference) => !difference.asked && difference.comesWith === null && !goesAlong(difference),
  );
  const groups = groupBy(sides.keys(), (at) => JSON.stringify(others.map(({ values }) => values[at])));
  const bases = new Array<number | null>(sides.length).fill(null);
  for (const group of groups.values()) {
    const base = group.find((at) => asked?.values[at] === asked?.values[0]) ?? group[0] ?? 0;
    for (const at of group) bases[at] = at !== base ? base : group.length > 1 || at === 0 ? null : 0;
  }
  return bases;
}

/** Every side against the first. */
const allAgainstFirst = (sides: readonly unknown[]) => sides.map((_, at) => (at === 0 ? null : 0));

/**
 * Holds every side against its base in several figures at once, with 95 % bootstrap intervals: times and rates
 * by the ratio of medians, shares and counts (which may be 0) by their difference. A
 * verdict needs `fewestForRatio` repeats on both sides, an interval that leaves out "equal", a difference that
 * matters, and one that is no chance among all figures of its side (rank-sum tests, corrected by Holm's method).
 * @param bases see `basesOf`; without them all are held against the first
 * @param least difference that matters, as a share
 */
export function compareAll(
  sides: readonly Side[],
  metrics: readonly Metric[],
  bases: readonly (number | null)[] = allAgainstFirst(sides),
  least = leastThatMatters,
): MetricRow[] {
  const rows = metrics.map((metric) => ({ metric, against: heldAgainst(sides, metric, bases, least) }));
  const corrected = sides.map((_, side) => holm(rows.map(({ against: all }) => all[side]?.chance ?? null)));
  return rows.map(({ metric, against: all }, row) => ({
    metric,
    against: all.map((one, side): Against => {
      const chance = corrected[side]?.[row] ?? null;
      const isTold = one.verdict === 'better' || one.verdict === 'worse';
      return {
        ...one,
        chance,
        verdict: isTold && chance !== null && chance > level ? 'may be chance' : one.verdict,
      };
    }),
  }));
}

/** The same in one figure alone. */
export function against(
  sides: readonly Side[],
  metric: Metric,
  bases?: readonly (number | null)[],
  least?: number,
): readonly Against[] {
  return compareAll(sides, [metric], bases, least)[0]?.against ?? [];
}

function heldAgainst(
  sides: readonly Side[],
  { id, better, measures }: Metric,
  bases: readonly (number | null)[],
  least: number,
): Against[] {
  const all = sides.map((side) => figuresOf(countedValues(side, id)));
  const draws = sides.length > manySides ? fewDraws : manyDraws;
  // A base is drawn once for all that are held against it.
  const samples = new Map<number, Resampled>();
  const sampleOf = (at: number) => {
    const known = samples.get(at) ?? resampled(all[at]?.values ?? [], draws, 2);
    samples.set(at, known);
    return known;
  };
  return all.map((figures, index): Against => {
    const at = bases[index] ?? null;
    const nothing = { figures, base: at, ratio: null, difference: null, chance: null };
    const base = at === null ? undefined : all[at];
    if (at === null || !base) return { ...nothing, verdict: 'base' };
    if (figures.values.length === 0 || base.values.length === 0)
      return { ...nothing, verdict: 'not comparable' };
    const few = Math.min(figures.values.length, base.values.length) < fewestForRatio;
    const chance = few ? null : rankSumChance(figures.values, base.values);
    const isSmall =
      Math.abs(figures.median - base.median) <
      least * Math.max(Math.abs(figures.median), Math.abs(base.median)) * (1 - 1e-9);
    const told = (verdict: Verdict): Verdict =>
      few
        ? 'too few repeats'
        : isSmall && (verdict === 'better' || verdict === 'worse')
          ? 'too small to matter'
          : verdict;
    if (measures === 'share' || measures === 'count') {
      const difference = differenceOf(resampled(figures.values, draws, 1), sampleOf(at));
      return { ...nothing, chance, difference, verdict: told(verdictOf(difference, 0, better === 'higher')) };
    }
    if (base.median === 0 || figures.median === 0) return { ...nothing, verdict: 'not comparable' };
    const sample = resampled(figures.values, draws, 1);
    const ratio = measures === 'time' ? ratioOf(sampleOf(at), sample) : ratioOf(sample, sampleOf(at));
    return { ...nothing, chance, ratio, verdict: told(verdictOf(ratio, 1, true)) };
  });
}

function verdictOf({ low, high }: Interval, equal: number, upIsBetter: boolean): Verdict {
  if (low > equal) return upIsBetter ? 'better' : 'worse';
  if (high < equal) return upIsBetter ? 'worse' : 'better';
  return 'no difference shown';
}
