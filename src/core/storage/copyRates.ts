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
 * and the destinations; where cards are left over for some of the readers, those
 * share among fewer. Each card is copied, then read back from its destination.
 */
export function dayTime(day: ShootingDay): DayTime {
  const sideBySide = Math.min(day.readers, day.cards);
  const left = day.cards % sideBySide;
  const rounds = [
    { cards: sideBySide, times: Math.floor(day.cards / sideBySide) },
    ...(left > 0 ? [{ cards: left, times: 1 }] : []),
  ];
  const copying = rounds.map(({ cards, times }) => {
    const rates: Record<DayPart, number> = {
      card: day.card,
      reader: day.reader,
      machine: day.machine / cards,
      destination: day.destination / cards,
    };
    const limit = dayParts.reduce((lowest, part) => (rates[part] < rates[lowest] ? part : lowest));
    // Each destination is read back beside the other; the machine hashes them all.
    return {
      limit,
      copySeconds: (times * day.cardBytes) / rates[limit],
      verifySeconds: day.verify
        ? (times * day.cardBytes) / Math.min(rates.destination, rates.machine / day.destinations)
        : 0,
    };
  });
  const copySeconds = copying.reduce((sum, round) => sum + round.copySeconds, 0);
  const verifySeconds = copying.reduce((sum, round) => sum + round.verifySeconds, 0);
  const longest = copying.reduce((most, round) => (round.copySeconds > most.copySeconds ? round : most));
  return { seconds: copySeconds + verifySeconds, copySeconds, verifySeconds, limit: longest.limit };
}

/** Seconds that making one part faster by a factor saves over a day. */
export function savedBy(day: ShootingDay, part: DayPart, factor: number): number {
  return dayTime(day).seconds - dayTime({ ...day, [part]: day[part] * factor }).seconds;
}
