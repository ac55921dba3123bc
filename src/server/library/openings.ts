import { clipOpening, type ClipOpening, type ClipOpenings } from '@/core/tasks/opening';
import { openingsToPicture } from '@/db/queries/trials';
import { currentRigId } from '../platform/rig';

/** What opening took, and in which trial. */
interface InTrial {
  readonly trialId: string;
  readonly at: Date;
  /** Files could not be put out of the system's cache: they may have come from memory. */
  readonly perhapsWarm: boolean;
}
export type MeasuredOpening = ClipOpening & InTrial;

/** Trials that are looked through for single clips. */
const mostLooked = 40;

/** How long it took, the last time, to open each of some clips to its first picture. @param clips with their volumes */
export async function openingsOfClips(
  clips: readonly { readonly id: string; readonly volumeId: string }[],
): Promise<ReadonlyMap<string, MeasuredOpening>> {
  const wanted = new Set(clips.map(({ id }) => id));
  const found = new Map<string, MeasuredOpening>();
  const someOf = [...new Set(clips.map(({ volumeId }) => volumeId))];
  const runs = await openingsToPicture(await currentRigId(), { someOf }, mostLooked);
  for (const { id: trialId, createdAt: at, subject, record } of runs)
    for (const clip of record?.opening?.clips ?? []) {
      const read = subject.timeline.media[clip.media ?? '']?.clipId;
      const took = read !== undefined && wanted.has(read) && !found.has(read) ? clipOpening(clip) : null;
      if (read !== undefined && took)
        found.set(read, { ...took, trialId, at, perhapsWarm: record?.cold?.method === 'warm' });
    }
  return found;
}

/** The same of the clips of a volume together, as they were opened last from it alone; null where they never were. */
export async function openingOfVolume(volumeId: string): Promise<(ClipOpenings & InTrial) | null> {
  const [last] = await openingsToPicture(await currentRigId(), { alone: volumeId }, 1);
  if (!last?.summary?.each) return null;
  return {
    ...last.summary.each,
    trialId: last.id,
    at: last.createdAt,
    perhapsWarm: last.record?.cold?.method === 'warm',
  };
}
