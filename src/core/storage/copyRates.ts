/** Steps a copy is made of. */
export const copyStages = ['read', 'hash', 'write', 'verify'] as const;
export type CopyStage = (typeof copyStages)[number];

/** Time each step of a copy worked, and on how many bytes. Writing and verifying count once per destination. */
export type CopyWork = Readonly<Record<CopyStage, { readonly bytes: number; readonly us: number }>>;

/** Bytes per second of one step while it worked; null when it did nothing. */
export function stageRate({ bytes, us }: { readonly bytes: number; readonly us: number }): number | null {
  return us > 0 && bytes > 0 ? (bytes * 1e6) / us : null;
}

/** The step of the copying itself, before verification, that worked longest: the one that held the rate down. Null before anything was copied. */
export function copyLimit(work: CopyWork): Exclude<CopyStage, 'verify'> | null {
  const [longest] = (['read', 'hash', 'write'] as const).toSorted((a, b) => work[b].us - work[a].us);
  return longest && work[longest].us > 0 ? longest : null;
}

/** A shooting day's cards and what they go through. Rates in bytes per second. */
export interface ShootingDay {
  readonly cards: number;
  readonly cardBytes: number;
  /** What the card itself gives. */
  readonly card: number;
  /** Reader with its link. */
  readonly reader: number;
  readonly readers: number;
  readonly destination: number;
  readonly destinations: number;
  /** What the machine copies and hashes, for all readers together. */
  readonly machine: number;
  readonly verify: boolean;
}

/** What can hold a copy down. */
export const dayParts = ['card', 'reader', 'machine', 'destination'] as const;
export type DayPart = (typeof dayParts)[number];

export interface DayTime {
  readonly seconds: number;
  readonly copySeconds: number;
  readonly verifySeconds: number;
  /** What holds copying down. */
  readonly limit: DayPart;
}

/**
 * Time for all cards of a day. Readers work side by side and share the machine
 * and the destinations; each card is copied, then read back from its destination.
 */
export function dayTime(day: ShootingDay): DayTime {
  const sideBySide = Math.min(day.readers, day.cards);
  const rates: Record<DayPart, number> = { card: day.card, reader: day.reader, machine: day.machine / sideBySide, destination: day.destination / sideBySide };
  const limit = dayParts.reduce((lowest, part) => (rates[part] < rates[lowest] ? part : lowest));
  const perReader = day.cardBytes * Math.ceil(day.cards / sideBySide);
  const copySeconds = perReader / rates[limit];
  // Each destination is read back beside the other; the machine hashes them all.
  const verifySeconds = day.verify ? perReader / Math.min(rates.destination, rates.machine / day.destinations) : 0;
  return { seconds: copySeconds + verifySeconds, copySeconds, verifySeconds, limit };
}

/** Seconds that making one part faster by a factor saves over a day. */
export function savedBy(day: ShootingDay, part: DayPart, factor: number): number {
  return dayTime(day).seconds - dayTime({ ...day, [part]: day[part] * factor }).seconds;
}
