import { faultsOfClip, mergeFaults, type ClipFaults, type RunFaults } from '@/core/media/faults';
import { frameIndex } from '@/core/media/frameIndex';
import { decodePacketTable } from '@/core/media/packetTable';
import { changeFaults, getPacketTable } from '@/db/queries/clips';
import type { PlayedTrial, TimelineTrial } from '@/db/kinds';
import { announce } from '../platform/events';

/** Keeps what a run met of a clip's frames that are not whole, so that Media warns of them. What is the rig's fault is left out. */
export async function noteClipFaults(clipId: string | null, faults: ClipFaults): Promise<void> {
  const found = faultsOfClip(faults);
  const packed = clipId === null || Object.keys(found).length === 0 ? null : await getPacketTable(clipId);
  if (clipId === null || !packed) return;
  const index = frameIndex(decodePacketTable(packed));
  await changeFaults(clipId, (known) => mergeFaults(index, known ?? {}, found));
  announce({ type: 'clips' });
}

/** The same for all clips of a run. */
export async function noteRunFaults(
  { subject: { timeline }, clipId }: Pick<PlayedTrial | TimelineTrial, 'subject' | 'clipId'>,
  { clips }: RunFaults,
): Promise<void> {
  for (const { media, faults } of clips)
    await noteClipFaults(timeline ? (timeline.media[media]?.clipId ?? null) : clipId, faults);
}
