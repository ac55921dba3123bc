import { listTimelines } from '@/db/queries/timelines';
import { listClips } from '@/db/queries/clips';
import { writableVolumes } from './library';
import { currentRigId } from './rig';

/** What a task can be made of, and where it can write. */
export async function readTaskChoices() {
  const rigId = await currentRigId();
  const [volumes, timelines, clips] = await Promise.all([
    writableVolumes(),
    listTimelines(rigId),
    listClips(rigId),
  ]);
  return {
    volumes,
    timelines: timelines.map(({ id, name, slots }) => ({ id, name, slots })),
    clips: clips
      .filter(({ status }) => status === 'ready')
      .map(({ id, contentHash, path, volumeName, volumeStandIn }) => ({
        id,
        contentHash,
        path,
        volumeName,
        simulated: volumeStandIn !== null,
      })),
  };
}
export type TaskChoices = Awaited<ReturnType<typeof readTaskChoices>>;
