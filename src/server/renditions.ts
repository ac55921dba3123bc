import { listClips } from '@/db/queries/clips';
import { volumesOfRig } from './library';
import { currentRigId } from './rig';

/** What a batch can be made of and go to. */
export async function readRenditionsPage() {
  const rigId = await currentRigId();
  const [volumes, clips] = await Promise.all([volumesOfRig(), listClips(rigId)]);
  return {
    volumes: volumes
      .filter(({ facts }) => facts.writable)
      .map(({ id, name, standIn }) => ({ id, name, simulated: standIn !== null })),
    clips: clips
      .filter(({ status }) => status === 'ready')
      .map(({ id, path, volumeName, volumeId, volumeStandIn, format, frames }) => ({
        id,
        path,
        volumeName,
        volumeId,
        simulated: volumeStandIn !== null,
        format,
        frames,
      })),
  };
}
export type RenditionsPage = Awaited<ReturnType<typeof readRenditionsPage>>;
