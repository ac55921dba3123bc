import type { OpenWay } from '@/core/media/coldProof';
import type { PacketTable } from '@/core/media/packetTable';
import { greatest } from '@/core/stats/extremes';
import { ColdFile } from './coldFile';
import type { CodecSetup } from './streamFacts';
import { ColdTake } from './coldTake';
import { ColdSequence } from './sequence';

/** A clip's bytes, in one file, in the files of a take, or in a file for each frame. */
export type MediaBytes = ColdFile | ColdSequence | ColdTake;

/**
 * Opens a clip for reading what its packets name.
 * @throws EngineError when a file is missing or unreadable
 */
export function openMedia(
  clip: {
    readonly path: string;
    readonly setup: Pick<CodecSetup, 'sequence' | 'parts'>;
    readonly packets: PacketTable;
  },
  way: OpenWay,
): Promise<MediaBytes> {
  const { path, setup, packets } = clip;
  const largest = greatest(packets.size, 0);
  if (setup.parts) return ColdTake.open(path, setup.parts, largest, way);
  if (!setup.sequence) return ColdFile.open(path, largest, way);
  return ColdSequence.open(path, setup.sequence, [...packets.size], largest, way);
}
