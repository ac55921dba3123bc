import 'server-only';
import { playableFiles } from '@/core/asked/library';
import { together } from '@/core/together';
import { soundCosts } from '@/db/queries/clips';
import { listLooks } from '@/db/queries/timelines';
import { readLibrary } from '../library/clipList';
import { usableDevices } from '../library/decode';
import { volumesOfRig } from '../library/library';
import { currentRigId } from '../platform/rig';
import { requireTimeline } from './timelines';

/** What the editor's page needs besides the timeline: the first clips to drag in, volumes, looks, and what is known of decoding sound. */
export async function readEditor(id: string) {
  const rigId = await currentRigId();
  const { row, clips, volumes, looks, sound, devices } = await together({
    row: requireTimeline(id),
    clips: readLibrary(playableFiles),
    volumes: volumesOfRig(),
    looks: listLooks(),
    sound: soundCosts(rigId),
    devices: usableDevices(),
  });
  return {
    row,
    clips,
    volumes: volumes.map((volume) => [volume.id, volume.name] as const),
    looks,
    /** Decoding the whole sound of clips, ms. */
    sound: [...sound],
    devices,
  };
}

export type EditorPage = Awaited<ReturnType<typeof readEditor>>;
