import type { DecodeBeside } from './coreTime';
import { gradeOf, type Grade } from './grade';
import { usualTimes, type ChosenWork } from './measuredWork';
import type { RigReason } from './rigSpans';
import { simulate, type Simulated } from './simulate';
import { slotState, type WorkingStage } from './slots';
import type { Work } from './work';

/** A time at which a volume did not answer. */
export interface Stall {
  readonly slot: number;
  /** beyond what its bytes usually take there */ readonly us: number;
}

/** What is changed to remove drops. */
export type Remedy =
  | { readonly kind: 'scale'; readonly scale: 'full' | 'half' | 'quarter' }
  | { readonly kind: 'processor'; /** decoding and processing, times as fast */ readonly factor: number }
  | { readonly kind: 'faster'; readonly stage: WorkingStage; /** times as fast */ readonly factor: number }
  | { readonly kind: 'volume'; /** sustained */ readonly bytesPerSecond: number }
  | {
      readonly kind: 'proxies';
      /** the proxy of a clip; null for those of a timeline */ readonly clipId: string | null;
    }
  | {
      readonly kind: 'streams';
      /** the lower tracks that are kept */ readonly streams: number;
      /** tracks of the run */ readonly most: number;
    }
  | {
      readonly kind: 'device';
      /** absent in trials from before it was kept */ readonly deviceId?: string;
      readonly name: string;
      /** as fast as decoding by software, as measured */ readonly times: number;
    }
  | { readonly kind: 'quiet'; /** what the rig did besides */ readonly reason: RigReason }
  | { readonly kind: 'stalls'; /** longest first */ readonly stalls: readonly Stall[] };

/** What a remedy would have done to a run. */
export interface Promised {
  readonly removes: number;
  /** Drops of the run. */
  readonly of: number;
  /** The grade that is left; absent in results from before it was kept. */
  readonly grade?: Grade;
  /** On a rig that others leave alone and that stays as fast as it was: what is removed beyond what that alone removes. */
  readonly besides?: true;
}

/** Something that would have removed drops, with how many of them. */
export type Cure = Remedy & Promised;

/** Measured time of the process stage at each playback scale, in µs per frame. */
export type ScaleCosts = Readonly<Record<'full' | 'half' | 'quarter', number>>;

/** What could be played instead, or with, on the rig as it is; every figure measured there. */
export interface RigChoices {
  /** The lightest forms of what was played: bytes and decode times against it. Null where there are none, or one was not measured. */
  readonly proxies: { readonly clipId: string | null; readonly read: number; readonly decode: number } | null;
  /** Devices that were proved to decode the format, as fast as the software. */
  readonly devices: readonly { readonly deviceId: string; readonly name: string; readonly times: number }[];
}

/** What cures rest on besides the run's work. */
export interface CureGrounds {
  readonly scale: 'full' | 'half' | 'quarter';
  /** Process times measured in the run's own warm-up, null when the run processed nothing. */
  readonly scaleCosts: ScaleCosts | null;
  /** Processor times of the same, and how decode times hang on them; null where the rig did not tell. */
  readonly cores?: { readonly costs: ScaleCosts; readonly decodeBeside: DecodeBeside } | null;
  /** The run's work on a quiet and steady rig; absent where nothing is known of the rig. Where that alone would have removed drops, hardware is asked for only as far as it removes others. */
  readonly without?: WorkWithout | null;
  readonly choices?: RigChoices | null;
  /** What fewer streams at once would have removed, for a timeline of several. */
  readonly fewerStreams?: Cure | null;
}

/** A run's work on a rig without some of what disturbed it. */
export type WorkWithout = (reasons: readonly RigReason[]) => Work;

/**
 * Finds what would have cured a run, what the rig itself did first and then by how much each removes, by simulating it anew with changed resources: the player chooses as it then would.
 * A cure counts only for what it removes beyond the simulation without any change, and only as far as a resource
 * that is a little better still removes as much.
 * @param bytes per slot
 */
export function findCures(
  { work, decisions }: ChosenWork,
  bytes: Float64Array,
  { scale, scaleCosts, cores = null, without = null, choices = null, fewerStreams = null }: CureGrounds,
): Cure[] {
  const beside = cores?.decodeBeside ?? null;
  const run: Run = { work, beside, of: simulate(work, { decisions }).droppedCount, unchanged: dropsOf(work) };
  if (run.of === 0) return [];
  const quiet = without ? quietCures(run, without) : [];
  const hardware: Run = quiet.length > 0 && without ? asBesides(run, without(['others', 'slowness'])) : run;
  const cures: (Cure | null)[] = [];
  for (const smaller of ['half', 'quarter'] as const) {
    if (!scaleCosts || smaller === scale || scale === 'quarter') continue;
    const ratio = Math.min(1, scaleCosts[smaller] / scaleCosts[scale]);
    const coreRatio = cores ? Math.min(1, cores.costs[smaller] / cores.costs[scale]) : ratio;
    cures.push({
      kind: 'scale',
      scale: smaller,
      ...promised(run, (better) =>
        onCores(run, { process: ratio / better, processCore: coreRatio / better }),
      ),
    });
  }
  cures.push(ofProxies(run, choices), fewerStreams);
  const single = [leastSpeedUp(hardware, 'decode'), leastSpeedUp(hardware, 'process')].filter(
    (cure) => cure !== null,
  );
  const unanswered = unansweredTimes(work.read, bytes);
  cures.push(
    withoutStalls(run, unanswered),
    ...asked(hardware, [
      leastVolumeRate(hardware, bytes, unanswered),
      ...single,
      leastProcessor(hardware, single),
      ofDevice(hardware, choices),
    ]),
  );
  const worthwhile = cures.filter((cure): cure is Cure => cure !== null && cure.removes > leastRemoved(run));
  const byRemoved = (some: readonly Cure[]) => some.toSorted((a, b) => b.removes - a.removes);
  return [...byRemoved(quiet), ...byRemoved(worthwhile)];
}

/** The grade of a simulated run. */
export function gradeOfRun({ dropped }: Pick<Simulated, 'dropped'>): Grade | undefined {
  return gradeOf(dropped.map((is) => (is ? slotState.dropped : slotState.shown))) ?? undefined;
}

function ofProxies(run: Run, choices: RigChoices | null): Cure | null {
  const proxies = choices?.proxies;
  return proxies
    ? {
        kind: 'proxies',
        clipId: proxies.clipId,
        ...promised(run, (better) =>
          scaled(onCores(run, { decode: proxies.decode / better }), Math.min(1, proxies.read), 'read'),
        ),
      }
    : null;
}

/** The fastest device that decodes the format. */
function ofDevice(run: Run, choices: RigChoices | null): Cure | null {
  const [fastest] = (choices?.devices ?? []).toSorted((a, b) => b.times - a.times);
  return fastest
    ? {
        kind: 'device',
        ...fastest,
        ...promised(run, (better) => scaled(run.work, 1 / (fastest.times * better), 'decode')),
      }
    : null;
}

/** A measured run: its drops, and those of its simulation with nothing changed. */
interface Run {
  readonly work: Work;
  readonly beside: DecodeBeside | null;
  readonly of: number;
  readonly unchanged: number;
  /** Drops of the run as it was, where this one is as it would have been on a quiet rig. */
  readonly besidesOf?: number;
}

/** What a cure must remove at least: more than a simulation without any change, and by a share that is worth naming. */
function leastRemoved(run: Run): number {
  return Math.max(run.of - run.unchanged, 0) + run.of * leastWorthwhile;
}

/** What the rig itself did to the run: others that had the cores, and a machine that had become slower. */
function quietCures(run: Run, without: WorkWithout): Cure[] {
  return (['others', 'slowness'] as const)
    .map((reason): Cure => ({ kind: 'quiet', reason, ...promised(run, () => without([reason]), [1]) }))
    .filter(({ removes }) => removes > leastRemoved(run));
}

/** A run as it would have been on a quiet and steady rig: cures count what they remove beyond that. */
function asBesides(run: Run, work: Work): Run {
  const unchanged = dropsOf(work);
  return { work, beside: run.beside, of: unchanged, unchanged, besidesOf: run.of };
}

/** Cures of hardware, told against all drops of the run. Of a quiet rig's remaining drops they must remove as large a share of the run's as any other. */
function asked(run: Run, cures: readonly (Cure | null)[]): (Cure | null)[] {
  const { besidesOf } = run;
  return besidesOf === undefined
    ? [...cures]
    : cures.map((cure) =>
        cure && cure.removes > 0 ? { ...cure, of: besidesOf, besides: true as const } : null,
      );
}

function dropsOf(work: Work): number {
  return simulate(work).droppedCount;
}

function scaled(work: Work, ratio: number, ...stages: readonly WorkingStage[]): Work {
  return {
    ...work,
    ...Object.fromEntries(stages.map((stage) => [stage, work[stage].map((value) => value * ratio)])),
  };
}

/** Shares of their times that decoding and processing take; `processCore`: of its processor time, the same where it is not told. */
interface Shares {
  readonly decode?: number;
  readonly process?: number;
  readonly processCore?: number;
}

/** A run whose decoding or processing is lighter, on cores that both want. */
function onCores({ work, beside, besidesOf }: Run, shares: Shares): Work {
  const { decode = 1, process = 1 } = shares;
  const lighter = scaled(work, process, 'process');
  const change = { decode, process: shares.processCore ?? process, quiet: besidesOf !== undefined };
  return beside ? { ...lighter, decode: beside(work.decode, change) } : scaled(lighter, decode, 'decode');
}

/** Beyond this a speed-up is no purchase any more. */
const greatestSpeedUp = 16;
/** A cure that removes less than this share of the drops is not worth naming. */
const leastWorthwhile = 0.1;
/** A cure is the least change that removes this share of what the greatest one would. */
const enough = 0.9;
/** By how much better resources than those of a cure are, that must do as well: a lucky fit is no cure. */
const betterStill = [1, 1.03, 1.06] as const;

/** What a remedy leaves at worst, with a resource and with slightly better ones. @param workWith the run's work with a resource so many times better than the remedy's */
function promised(
  run: Run,
  workWith: (better: number) => Work,
  better: readonly number[] = betterStill,
): Promised {
  const worst = better
    .map((one) => simulate(workWith(one)))
    .reduce((a, b) => (b.droppedCount > a.droppedCount ? b : a));
  return { removes: run.of - worst.droppedCount, of: run.of, grade: gradeOfRun(worst) };
}

/**
 * The least factor in [1, greatest] that removes nearly all that the greatest
 * one removes, by bisection on a logarithmic axis; null when that one removes nothing.
 */
function leastFactor(
  run: Run,
  workWith: (factor: number) => Work,
): ({ readonly factor: number } & Promised) | null {
  const drops = (factor: number) => dropsOf(workWith(factor));
  const fewest = drops(greatestSpeedUp);
  if (fewest >= run.unchanged) return null;
  const target = fewest + Math.floor((run.unchanged - fewest) * (1 - enough));
  let low = 1;
  let high = greatestSpeedUp;
  for (let step = 0; step < 8; step++) {
    const middle = Math.sqrt(low * high);
    if (drops(middle) <= target) high = middle;
    else low = middle;
  }
  return { factor: high, ...promised(run, (better) => workWith(high * better)) };
}

type SpeedUp = Extract<Cure, { kind: 'faster' }>;

function leastSpeedUp(run: Run, stage: 'decode' | 'process'): SpeedUp | null {
  const least = leastFactor(run, (factor) => onCores(run, { [stage]: 1 / factor }));
  return least && { kind: 'faster', stage, ...least };
}

/** A processor that does both decoding and processing faster; null where it removes no more, and needs to be hardly less fast, than one of them alone. */
function leastProcessor(run: Run, single: readonly SpeedUp[]): Cure | null {
  const least = leastFactor(run, (factor) => scaled(run.work, 1 / factor, 'decode', 'process'));
  if (!least || single.some((cure) => cure.removes >= least.removes && cure.factor * 0.8 <= least.factor))
    return null;
  return { kind: 'processor', ...least };
}

/** A read that takes longer than its bytes usually do there by this, and by this many times: the volume did not answer. */
const leastStallUs = 150_000;
const leastStallTimes = 3;

/** For how long the volume did not answer in each slot's read, µs: what that took beyond the usual; 0 where it answered. */
function unansweredTimes(read: Float64Array, bytes: Float64Array): Float64Array {
  const usual = usualTimes(read, bytes);
  return read.map((us, slot) => {
    const usualUs = usual[slot] as number;
    return us - usualUs >= Math.max(leastStallUs, usualUs * leastStallTimes) ? us - usualUs : 0;
  });
}

/** What would have been if the volume had answered as it usually does; null where it did. */
function withoutStalls(run: Run, unanswered: Float64Array): Cure | null {
  const stalls = [...unanswered].flatMap((us, slot) => (us > 0 ? [{ slot, us }] : []));
  if (stalls.length === 0) return null;
  const answered = { ...run.work, read: run.work.read.map((us, slot) => us - (unanswered[slot] as number)) };
  return {
    kind: 'stalls',
    stalls: stalls.sort((a, b) => b.us - a.us),
    ...promised(run, () => answered, [1]),
  };
}

/**
 * The least sustained volume rate that removes what a volume's rate can remove: each read takes its bytes over the rate.
 * Times without an answer stay: they are not a matter of rate.
 */
function leastVolumeRate(run: Run, bytes: Float64Array, unanswered: Float64Array): Cure | null {
  const {
    graph: { slotCount },
    slotUs,
  } = run.work;
  const total = bytes.reduce((sum, value) => sum + value, 0);
  const demand = total / ((slotCount * slotUs) / 1e6);
  if (!(demand > 0)) return null;
  const least = leastFactor(run, (times) => ({
    ...run.work,
    read: bytes.map((size, slot) => (size / (demand * times)) * 1e6 + (unanswered[slot] as number)),
  }));
  if (!least) return null;
  const { factor, ...promise } = least;
  return { kind: 'volume', bytesPerSecond: demand * factor, ...promise };
}
