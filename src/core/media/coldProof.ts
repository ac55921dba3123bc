/** How a file was kept out of, or was found in, the system's memory before a run. */
export interface ColdProof {
  /** `direct`: every read bypasses the page cache. `evicted`: dropped from it and counted. `warm`: asked for, or nothing worked. */
  readonly method: 'direct' | 'evicted' | 'warm';
  /** Share of the file's pages in memory before anything was done, 0 to 1; null when it could not be counted. */
  readonly residentBefore: number | null;
  /** The same at the start of the run. */
  readonly residentAtStart: number | null;
}
