/** Whether a cold file is read past the system's cache, or through it as most players do, with its read-ahead and put out of it before. */
export const cacheWays = ['past', 'through'] as const;
export type CacheWay = (typeof cacheWays)[number];

/** How a run reads its files. */
export interface ReadBy {
  /** Read through the system's cache on purpose, with what lies there. */
  readonly warm: boolean;
  /** Absent in trials from before it could be chosen: past it. */
  readonly cache?: CacheWay;
  /** Requests that each reader has under way; absent in trials from before it could be chosen: one. */
  readonly underWay?: number;
}

/**
 * How a file is opened: past the system's cache where that works, through it and put out of it before, or warm: left alone and
 * read through. `plain` is warm where nobody asks what lay in the cache, and it is not counted.
 */
export type OpenWay = CacheWay | 'warm' | 'plain';

/** Whether what lies in the cache stays there. */
export const leavesCache = (way: OpenWay): boolean => way === 'warm' || way === 'plain';

/** How a file is opened for a run. */
export const readWay = ({ warm, cache = 'past' }: ReadBy): CacheWay | 'warm' => (warm ? 'warm' : cache);

/** Where the next bytes of a file come from: the volume, past the cache or with the cache emptied of it before; or the cache, as far as they lie there. */
export type ColdWay = 'past' | 'emptied' | 'cache';

/** How a file was kept out of, or was found in, the system's memory before a run. */
export interface ColdProof {
  /** `direct`: every read bypasses the page cache. `evicted`: dropped from it and counted. `warm`: asked for, or nothing worked. */
  readonly method: 'direct' | 'evicted' | 'warm';
  /** Share of the file's pages in memory before anything was done, 0 to 1; null when it could not be counted. */
  readonly residentBefore: number | null;
  /** The same at the start of the run. */
  readonly residentAtStart: number | null;
}

/** The least cold of several proofs. */
export function leastCold(proofs: readonly ColdProof[]): ColdProof {
  const rank = { direct: 0, evicted: 1, warm: 2 } as const;
  return proofs.reduce<ColdProof>(
    (worst, proof) =>
      rank[proof.method] > rank[worst.method] || (proof.residentAtStart ?? 0) > (worst.residentAtStart ?? 0)
        ? proof
        : worst,
    proofs[0] ?? { method: 'warm', residentBefore: null, residentAtStart: null },
  );
}
