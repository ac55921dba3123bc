import 'server-only';
import { together } from '@/core/together';
import type { InferType } from '@/core/edge/strict';
import type { deliveryInput } from '@/core/kinds/export';
import { choiceProblem, deliveries as ready } from '@/core/tasks/exportCodecs';
import { listVolumesWithClips } from '@/db/queries/clipList';
import { listDeliveries, removeDelivery, saveDelivery } from '@/db/queries/deliveries';
import { listTimelines } from '@/db/queries/timelines';
import { encodeDevicesOfRig } from '../library/decode';
import { firstClip, type WantedClip } from '../library/clipList';
import { RequestError } from '../platform/errors';
import { newId } from '../platform/ids';
import { writableVolumes } from '../library/library';
import { currentRigId } from '../platform/rig';

/** What a task can be made of, and where it can write. @param wanted the clip it begins with */
export async function readTaskChoices(wanted: WantedClip = {}) {
  const rigId = await currentRigId();
  const { volumes, timelines, clip, filled, own, devices } = await together({
    volumes: writableVolumes(),
    timelines: listTimelines(rigId),
    clip: firstClip(wanted),
    filled: listVolumesWithClips(rigId),
    own: listDeliveries(),
    devices: encodeDevicesOfRig(),
  });
  return {
    volumes,
    deliveries: own.map(({ id, name, choice }) => ({ id, name, choice })),
    encodeDevices: devices.map(({ id, encodes = [] }) => ({ id, encodes })),
    timelines: timelines.map(({ id, name, slots }) => ({ id, name, slots })),
    /** The wanted clip, or the first that plays; null where none does. */
    clip,
    volumesWithClips: filled,
  };
}
export type TaskChoices = Awaited<ReturnType<typeof readTaskChoices>>;

/** Keeps a way of writing under a name; one of the same name becomes it. @throws RequestError when it cannot be written, or the name is one of ours */
export async function keepDelivery({ name, ...choice }: InferType<typeof deliveryInput>): Promise<string> {
  const problem = choiceProblem(choice);
  if (problem) throw RequestError.of(problem);
  if (ready.some((one) => one.name.toLowerCase() === name.toLowerCase()))
    throw new RequestError('delivery-there', { name }, 'name');
  return saveDelivery({ id: newId(), name, choice });
}

/** @throws RequestError when there is none */
export async function forgetDelivery(id: string): Promise<void> {
  if (!(await removeDelivery(id))) throw new RequestError('no-such-delivery');
}
