import type { Frame } from 'node-av/lib';
import { AV_FRAME_FLAG_CORRUPT } from 'node-av/constants';
import { addFault, clipFaults, doubtfulFrames, type ClipFaults, type FrameFault } from '@/core/media/faults';
import { frameIndex } from '@/core/media/frameIndex';
import type { PacketTable } from '@/core/media/packetTable';

/** True for frames that a decoder marks as corrupt, or says that it concealed errors in. */
export function isConcealed(frame: Frame): boolean {
  return frame.decodeErrorFlags !== 0 || frame.hasFlags(AV_FRAME_FLAG_CORRUPT);
}

/** What decoders told of a clip's frames that are not whole. */
export class FaultLog {
  private readonly told = new Map<number, FrameFault>();
  /** Worked out of what was told, once it was asked for. */
  private found: ClipFaults | null = null;

  /** @param known faults that earlier runs met: they tell of pictures that are not to be trusted, and are not told again */
  constructor(
    private readonly packets: PacketTable,
    private readonly known: ClipFaults = {},
  ) {}

  note(frame: number, fault: FrameFault): void {
    addFault(this.told, frame, fault);
    this.found = null;
  }

  /** All faults so far; null without any. */
  get faults(): ClipFaults | null {
    if (this.told.size > 0) this.found ??= clipFaults(frameIndex(this.packets), this.told);
    return this.found;
  }

  /** Frames whose pictures are not to be trusted, by what was met here or before. */
  get doubtful(): ReadonlySet<number> {
    return new Set([...doubtfulFrames(this.known), ...doubtfulFrames(this.faults ?? {})]);
  }
}
