import 'server-only';
import { together } from '@/core/together';
import { fileName } from '@/core/media/fileName';
import { listVolumes } from '@/db/queries/volumes';
import { listClipChoices } from '../library/clipChoices';
import { usableDevices } from '../library/decode';
import { currentRigId } from '../platform/rig';
import { timelinesOfRig } from '../timelines/timelines';

/** What a matrix can be built of: clips, each content once, timelines and volumes. The wanted clip is among them where it can be played. */
export async function readPlanChoices(wantedClipId: string | null = null) {
  const rigId = await currentRigId();
  const { clips, volumes, timelines, devices } = await together({
    clips: listClipChoices(rigId, wantedClipId),
    volumes: listVolumes(rigId),
    timelines: timelinesOfRig(),
    devices: usableDevices(),
  });
  return {
    clips: clips.map(({ clip: { id, path, format, volumeId, volumeName }, also, proxy }) => ({
      id,
      name: fileName(path),
      also,
      proxy,
      format,
      volumeId,
      volumeName,
    })),
    timelines: timelines.filter(({ slots }) => slots > 0).map(({ id, name }) => ({ id, name })),
    volumes: volumes.map(({ id, name, standIn }) => ({ id, name, simulated: standIn !== null })),
    devices,
  };
}
export type PlanChoices = Awaited<ReturnType<typeof readPlanChoices>>;
