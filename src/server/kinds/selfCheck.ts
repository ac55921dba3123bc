import { defaultBufferDepths } from '@/core/playback/slots';
import type { InjectedFault } from '@/core/playback/injectedFault';
import { listClips, type ClipWithVolume } from '@/db/queries/clips';
import { countTrials } from '@/db/queries/trials';
import { RequestError } from '../platform/errors';
import { currentRigId } from '../platform/rig';
import { traceCsv } from '../trials/traceCsv';
import { queueClip } from '../timelines/playedTrials';
import type { KindServer } from './kind';

/** Where the self-check holds a stage back. Far enough apart that the read-ahead recovers between them. */
const selfCheckFaults: readonly InjectedFault[] = [
  { stage: 'read', slot: 36, slots: 1 },
  { stage: 'read', slot: 64, slots: 3 },
  { stage: 'decode', slot: 92, slots: 1 },
  { stage: 'decode', slot: 112, slots: 4 },
  { stage: 'process', slot: 136, slots: 1 },
  { stage: 'process', slot: 156, slots: 2 },
];

/** Slots a self-check plays: enough for its last fault to pass and the buffers to fill again. */
export const selfCheckSlots = 180;

/** Queues a self-check on the lightest intra clip of this rig that is long enough. Returns its id. */
export async function startSelfCheck(): Promise<string> {
  const rigId = await currentRigId();
  if ((await countTrials({ rigId, kinds: ['self-check'], statuses: ['queued', 'running'] })) > 0)
    throw new RequestError('self-check-under-way');
  const weight = (clip: ClipWithVolume) =>
    clip.format
      ? clip.format.width * clip.format.height * (clip.format.rate.num / clip.format.rate.den)
      : Infinity;
  const [lightest] = (await listClips(rigId))
    .filter(
      (clip) => clip.status === 'ready' && clip.structure?.intra && (clip.frames ?? 0) >= selfCheckSlots,
    )
    .sort((a, b) => weight(a) - weight(b));
  if (!lightest) throw new RequestError('self-check-needs-clip', { frames: selfCheckSlots });
  return queueClip('self-check', lightest, {
    scale: 'full',
    policy: 'hold-time',
    threads: 0,
    warm: false,
    depth: 'kept',
    fields: 'woven',
    processing: true,
    buffers: defaultBufferDepths,
    slotLimit: selfCheckSlots,
    faults: selfCheckFaults,
  });
}

export const selfCheck: KindServer<'self-check'> = {
  start: async () => [await startSelfCheck()],
  csv: ({ id }) => traceCsv(id),
};
