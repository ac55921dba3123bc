import canonicalize from 'canonicalize';
import type { ReadBundle } from '@/core/formats/bundle';
import { groupBy } from '@/core/groups';
import { greatest } from '@/core/stats/extremes';
import { lengthOf, type Timeline } from '@/core/timeline/model';
import { timelineRows, type ResultRows } from '@/db/queries/bundles';
import { sha256 } from '@/engine/sha256';
import { relinkFrom, relinkLibrary } from '../timelines/interchange';

/** Timelines of a bundle as they are kept here. */
export interface TimelinesIn extends Pick<ResultRows, 'timelines' | 'versions'> {
  /** The number that a version of a timeline has here. */
  readonly numberOf: (timelineId: string, version: number) => number;
  /** Media of timelines that are new here which no file of the library is, and which several may be. */
  readonly missing: number;
  readonly choices: number;
}

/** Media as they are told from each other on any rig: without the clips that they are linked to there. */
const unlinked = (timeline: Timeline): Timeline => ({
  ...timeline,
  media: Object.fromEntries(
    Object.entries(timeline.media).map(([id, ref]) => [id, { ...ref, clipId: null }]),
  ),
});
const sameness = (document: Timeline) => sha256(canonicalize(unlinked(document)) as string);

/** Takes the timelines of a bundle to this rig: those of another one are linked to the files of this library. Stores nothing. */
export async function timelinesIn(
  { timelines }: ReadBundle,
  { isOwn, here, demo }: { readonly isOwn: boolean; readonly here: string; readonly demo: number },
): Promise<TimelinesIn> {
  const found = await timelineRows(
    null,
    timelines.map(({ id }) => id),
  );
  const known = new Set(found.timelines.map(({ id }) => id));
  const there = groupBy(found.versions, ({ timelineId }) => timelineId);
  const library = isOwn || timelines.every(({ id }) => known.has(id)) ? null : await relinkLibrary();
  const rows: ResultRows['timelines'][number][] = [];
  const versionRows: ResultRows['versions'][number][] = [];
  const numbers = new Map<string, number>();
  let missing = 0;
  let choices = 0;
  // On another rig the clips are other files.
  const foreign = (of: Timeline) => (isOwn ? of : unlinked(of));
  for (const { id, name, document, versions = [], createdAt, updatedAt, removed } of timelines) {
    if (!known.has(id)) {
      const linked = library ? relinkFrom(library, unlinked(document)) : null;
      missing += linked?.report.missing.length ?? 0;
      choices += linked?.report.choices.length ?? 0;
      const kept = linked?.timeline ?? document;
      rows.push({
        id,
        rigId: here,
        name,
        document: kept,
        slots: lengthOf(kept),
        demo,
        createdAt: new Date(createdAt),
        updatedAt: new Date(updatedAt),
        removedAt: removed === true ? new Date(updatedAt) : null,
      });
    }
    const taken = new Map(
      (there.get(id) ?? []).map((version) => [version.number, sameness(version.document)]),
    );
    for (const version of versions) {
      const same = sameness(version.document);
      const number = numberFor(version.number, same, taken);
      numbers.set(`${id} ${version.number}`, number);
      if (taken.has(number)) continue;
      taken.set(number, same);
      versionRows.push({
        timelineId: id,
        number,
        name: version.name ?? null,
        document: foreign(version.document),
        createdAt: new Date(version.createdAt),
      });
    }
  }
  return {
    timelines: rows,
    versions: versionRows,
    numberOf: (timelineId, version) => numbers.get(`${timelineId} ${version}`) ?? version,
    missing,
    choices,
  };
}

/** The number for a version: that of the same document here, its own where that is free, or else the next free one. */
function numberFor(wanted: number, same: string, taken: ReadonlyMap<number, string>): number {
  if (taken.get(wanted) === same) return wanted;
  for (const [number, there] of taken) if (there === same) return number;
  return taken.has(wanted) ? greatest([...taken.keys()], 0) + 1 : wanted;
}
