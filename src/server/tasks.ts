import { listTimelines } from '@/db/queries/timelines';
import { listClips } from '@/db/queries/clips';
import { volumesOfRig } from './library';
import { currentRigId } from './rig';

/** What a task can be made of, and where it can write. */
export async function readTaskChoices() {
  const rigId = await currentRigId();
  const [volumes, timelines, clips] = await Promise.all([
    volumesOfRig(),
    listTimelines(rigId),
    listClips(rigId),
  ]);
  return {
    volumes: volumes
      .filter(({ facts }) => facts.writable)
      .map(({ id, name, standIn }) => ({ id, name, simulated: standIn !== null })),
    timelines: timelines.map(({ id, name, slots }) => ({ id, name, slots })),
    clips: clips
      .filter(({ status }) => status === 'ready')
      .map(({ id, contentHash, path, volumeId, volumeName, volumeStandIn }) => ({
        id,
        contentHash,
        path,
        volumeId,
        volumeName,
        simulated: volumeStandIn !== null,
      })),
  };
}
export type TaskChoices = Awaited<ReturnType<typeof readTaskChoices>>;
