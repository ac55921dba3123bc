import { fixed, money, quantity, times } from '../format';
import type { Grade } from '../playback/grade';
import { least } from '../stats/extremes';
import { bytesPerDay, type Brief, type BriefPlace } from './brief';
import { camerasWithProxy, isUnder, worseGrade, type FormatRow, type Judgement } from './judge';

/** Which form each camera is cut in: its originals, its proxies where it has some, or proxies only where originals do not reach the grade. */
export const setUpForms = ['originals', 'proxies where needed', 'proxies'] as const;
export type SetUpForm = (typeof setUpForms)[number];

/** What is known of a place besides its cells. Rates in bytes per second. */
export interface PlaceFacts {
  readonly place: BriefPlace;
  readonly name: string;
  /** Its runs come from a rig that is simulated. */
  readonly modelled: boolean;
  /** What is free on it; null where that is not known. */
  readonly freeBytes: number | null;
  /** What its price is counted in. */
  readonly currency: string;
  readonly writeBytesPerSecond: number | null;
  /** Cells of this place by the row's id. */
  readonly cells: ReadonlyMap<string, Judgement>;
}

/** Making proxies on a rig: hours of media an hour, by camera id; absent where never measured. */
export type ProxySpeeds = ReadonlyMap<string, number>;

export interface SetUp {
  readonly place: BriefPlace;
  readonly name: string;
  readonly form: SetUpForm;
  /** Rows it plays, one for each camera. */
  readonly rows: readonly string[];
  readonly grade: Grade | null;
  readonly headroom: number | null;
  readonly underMargin: boolean;
  /** `computed`: every known cell is arithmetic or the model run of a simulated rig. */
  readonly basis: 'measured' | 'measured and computed' | 'computed' | 'unknown';
  /** Null while something is unknown that could decide it. */
  readonly meets: boolean | null;
  readonly cost: number | null;
  readonly currency: string;
  readonly bytesPerDay: number;
  readonly jobBytes: number;
  /** Days that what is free on the volume holds; null where that is not known. */
  readonly daysHeld: number | null;
  readonly copySecondsPerDay: number | null;
  /** 0 without proxies; null where making them was never timed. */
  readonly proxySecondsPerDay: number | null;
  /** Why it does not meet the brief. */
  readonly fails: readonly string[];
  /** Names of the rows of which it is not known how they play from it. */
  readonly unplayed: readonly string[];
  /** What else is not known of it and counts, in words: "how much is free on the store". */
  readonly unknown: readonly string[];
  /** What would make it meet the brief. */
  readonly cures: readonly string[];
}

/**
 * All set-ups of a brief, best first: those that meet it by cost, one of unknown cost last, then originals
 * before proxies (which have to be made), then by headroom; then those of which something is unknown that could
 * decide it, then those that fail with the fewest reasons first.
 * @param cardBytesPerSecond what cards give; null where not known
 */
export function rankSetUps(
  brief: Brief,
  rows: readonly FormatRow[],
  places: readonly PlaceFacts[],
  proxySpeeds: (place: BriefPlace) => ProxySpeeds,
  cardBytesPerSecond: number | null,
): SetUp[] {
  const withProxy = camerasWithProxy(rows);
  const setUps = places.flatMap((facts) => {
    const found = new Map<string, SetUp>();
    const speeds = proxySpeeds(facts.place);
    for (const form of setUpForms) {
      const chosen = rowsOf(brief, rows, facts, form);
      if (chosen.length < brief.cameras.length) continue;
      const key = chosen.map(({ id }) => id).join();
      if (!found.has(key))
        found.set(key, setUpOf(brief, facts, form, chosen, withProxy, speeds, cardBytesPerSecond));
    }
    return [...found.values()];
  });
  const rank = ({ meets }: SetUp) => (meets === true ? 0 : meets === null ? 1 : 2);
  return setUps.sort(
    (a, b) =>
      rank(a) - rank(b) ||
      a.fails.length - b.fails.length ||
      byCost(a, b) ||
      setUpForms.indexOf(a.form) - setUpForms.indexOf(b.form) ||
      (b.headroom ?? -1) - (a.headroom ?? -1),
  );
}

/** An unknown cost is no small one. */
function byCost(a: SetUp, b: SetUp): number {
  if (a.cost === null || b.cost === null) return Number(a.cost === null) - Number(b.cost === null);
  return a.cost - b.cost;
}

function rowsOf(
  { cameras }: Brief,
  rows: readonly FormatRow[],
  { cells }: PlaceFacts,
  form: SetUpForm,
): FormatRow[] {
  return cameras.flatMap((camera) => {
    const own = rows.filter(({ cameraId }) => cameraId === camera.id);
    const original = own.find(({ role }) => role === 'original');
    const proxies = own.filter(({ role }) => role === 'proxy');
    const best = proxies.toSorted(
      (a, b) => (cells.get(b.id)?.headroom ?? -1) - (cells.get(a.id)?.headroom ?? -1),
    )[0];
    const wanted =
      form === 'originals' || !best
        ? original
        : form === 'proxies'
          ? best
          : cells.get(original?.id ?? '')?.meets === false
            ? best
            : original;
    return wanted ?? [];
  });
}

/** Why a set-up does not meet the brief, and what would make it. */
interface Short {
  readonly fails: readonly string[];
  readonly cures: readonly string[];
}
const enough: Short = { fails: [], cures: [] };

/** What of it does not play well enough. */
function playsShort(
  cells: readonly { readonly row: FormatRow; readonly cell: Judgement | null }[],
  withProxy: ReadonlySet<string>,
): Short {
  const short = cells.flatMap(({ row, cell }) => (cell?.meets === false ? [{ row, cell }] : []));
  return {
    fails: short.map(
      ({ row, cell: { grade, limit } }) =>
        `${row.name} is ${grade ?? 'unknown'}${limit === 'volume' ? ', the volume is too slow' : ''}`,
    ),
    cures: short.flatMap(({ row, cell }) => [
      ...(cell.cure ? [cell.cure] : []),
      ...(row.role === 'original' && !withProxy.has(row.cameraId)
        ? [`Of ${row.name} there is no proxy yet; one may play.`]
        : []),
    ]),
  };
}

/** @param daily bytes of a day, of all that it keeps */
function holdsShort(
  { freeBytes, currency, place: { price } }: PlaceFacts,
  daily: number,
  days: number,
): Short {
  if (freeBytes === null || freeBytes >= daily * days) return enough;
  const needed = Math.ceil((daily * days) / freeBytes);
  return {
    fails: [`has room for ${fixed(freeBytes / daily, 1)} of ${days} days`],
    // What is there already costs nothing; more of it does.
    cures:
      freeBytes > 0
        ? [
            `${needed} with as much room hold the job${price ? `, for ${money(price * needed, currency)}` : ''}.`,
          ]
        : [],
  };
}

function costsMuch({ currency, place: { price } }: PlaceFacts, budget: number | null): Short {
  if (budget === null || price === null || price <= budget) return enough;
  return {
    fails: [`costs ${money(price, currency)}, the budget is ${money(budget, currency)}`],
    cures: [`A budget of ${money(price, currency)} would do.`],
  };
}

/** What its runs tell together: of one that was not played, and cannot be computed, nothing. */
function playedTogether(known: readonly Judgement[], modelled: boolean, isWhole: boolean) {
  if (!isWhole) return { grade: null, headroom: null, basis: 'unknown' } as const;
  const spare = known.flatMap(({ headroom }) => headroom ?? []);
  const measured = modelled ? 0 : known.filter(({ basis }) => basis === 'measured').length;
  return {
    grade: known.map(({ grade }) => grade as Grade).reduce(worseGrade),
    headroom: spare.length === 0 ? null : least(spare),
    basis: measured === 0 ? 'computed' : measured < known.length ? 'measured and computed' : 'measured',
  } as const;
}

function setUpOf(
  brief: Brief,
  facts: PlaceFacts,
  form: SetUpForm,
  rows: readonly FormatRow[],
  withProxy: ReadonlySet<string>,
  proxySpeeds: ProxySpeeds,
  cardBytesPerSecond: number | null,
): SetUp {
  const { place, name, currency, freeBytes, writeBytesPerSecond } = facts;
  const cells = rows.map((row) => ({ row, cell: facts.cells.get(row.id) ?? null }));
  const known = cells.flatMap(({ cell }) => (cell && cell.basis !== 'unknown' ? [cell] : []));
  const unplayed = cells.flatMap(({ row, cell }) => (cell && cell.basis !== 'unknown' ? [] : [row.name]));
  const originals = brief.cameras.reduce((sum, camera) => sum + bytesPerDay(camera), 0);
  const proxied = rows.filter(({ role }) => role === 'proxy');
  const hoursOf = (cameraId: string) => brief.cameras.find(({ id }) => id === cameraId)?.hoursPerDay ?? 0;
  const daily = proxied.reduce(
    (sum, { cameraId, meanBitsPerSecond }) =>
      sum + bytesPerDay({ hoursPerDay: hoursOf(cameraId), meanBitsPerSecond }),
    originals,
  );
  const short = [
    playsShort(cells, withProxy),
    holdsShort(facts, daily, brief.days),
    costsMuch(facts, brief.budget),
  ];
  const fails = short.flatMap((one) => one.fails);
  const isOpen = unplayed.length > 0 || freeBytes === null || (brief.budget !== null && place.price === null);
  const played = playedTogether(known, facts.modelled, unplayed.length === 0);
  const copyRate =
    writeBytesPerSecond === null ? null : Math.min(writeBytesPerSecond, cardBytesPerSecond ?? Infinity);
  return {
    place,
    name,
    form,
    rows: rows.map(({ id }) => id),
    ...played,
    underMargin: isUnder(played.headroom, brief.margin),
    meets: fails.length > 0 ? false : isOpen ? null : true,
    cost: place.price,
    currency,
    bytesPerDay: daily,
    jobBytes: daily * brief.days,
    daysHeld: freeBytes === null ? null : freeBytes / daily,
    copySecondsPerDay: copyRate === null ? null : originals / copyRate,
    proxySecondsPerDay: proxied.length === 0 ? 0 : proxySeconds(proxied, hoursOf, proxySpeeds),
    fails,
    unplayed,
    unknown: [
      ...(freeBytes === null ? [`how much is free on ${name}`] : []),
      ...(place.price === null && counts(brief) ? [`what ${name} costs`] : []),
    ],
    cures: [...new Set(short.flatMap((one) => one.cures))],
  };
}

/** Whether prices count: there is a budget, or some are told, so that set-ups are ranked by them. */
function counts({ budget, places }: Brief): boolean {
  return budget !== null || places.some(({ price }) => price !== null);
}

function proxySeconds(
  proxied: readonly FormatRow[],
  hoursOf: (cameraId: string) => number,
  speeds: ProxySpeeds,
): number | null {
  let seconds = 0;
  for (const { cameraId } of proxied) {
    const speed = speeds.get(cameraId);
    if (speed === undefined) return null;
    seconds += (hoursOf(cameraId) * 3_600) / speed;
  }
  return seconds;
}

/** Headroom as people say it: "35 % to spare", "short by 20 %", "4.1x the need"; "8 % to spare, under the margin" where more is wanted. */
export function headroomWords(headroom: number, underMargin = false): string {
  const percent = Math.round(Math.abs(headroom) * 100);
  if (headroom >= 2 && !underMargin) return `${times(headroom + 1, 1)} the need`;
  return headroom >= 0
    ? `${quantity(percent, '%')} to spare${underMargin ? ', under the margin' : ''}`
    : `short by ${quantity(percent, '%')}`;
}

/** All that is not known of a set-up, in words. */
export function unknownWords({ name, unplayed, unknown }: SetUp): string[] {
  return [...unplayed.map((row) => `how ${row} plays from ${name}`), ...unknown];
}
