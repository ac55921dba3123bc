import 'server-only';
import { listClips } from '@/db/queries/clips';
import { hasFiles } from '@/engine/media/joinedFiles';
import { writableVolumes } from './library';
import { currentRigId } from '../platform/rig';

/** What a batch can be made of and go to. */
export async function readRenditionsPage() {
  const rigId = await currentRigId();
  const [volumes, clips] = await Promise.all([writableVolumes(), listClips(rigId)]);
  return {
    volumes,
    clips: clips
      .filter(({ status, setup }) => status === 'ready' && !(setup && hasFiles(setup)))
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
