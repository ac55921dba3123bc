import type { Frame, Packet } from 'node-av/lib';
import { readFrameCode } from '@/core/media/frameCode';
import { isKey, type PacketTable } from '@/core/media/packetTable';
import type { MediaReader } from '../storage/standIn';
import { packetOf, type Decoder } from './decoder';
import type { PlaySource } from './playSource';
import type { ProcessedPicture, Processor } from './processor';
import type { TraceRecorder } from './traceRecorder';

/** A clip played from its first frame on: one packet, one frame and one picture per slot. */
export class ClipSource implements PlaySource<Packet, Frame> {
  private readonly rows: Uint32Array;
  private coded: boolean | null = null;

  /** @param processor null: decode only */
  constructor(private readonly file: MediaReader, private readonly decoder: Decoder, private readonly processor: Processor | null, private readonly packets: PacketTable, slotCount: number, private readonly recorder: TraceRecorder) {
    this.rows = positionsToRows(packets, slotCount);
  }

  async read(slot: number, position: number): Promise<Packet> {
    const row = this.rows[position] as number;
    return packetOf(await this.file.read(this.packets.offset[row] as number, this.packets.size[row] as number), slot, isKey(this.packets, row));
  }

  discard(packet: Packet): void {
    packet.free();
  }

  send(packet: Packet | null): Promise<boolean> {
    return this.decoder.send(packet);
  }

  async receive(): Promise<{ slot: number; decoded: Frame } | null> {
    const frame = await this.decoder.receive();
    return frame && { slot: Number(frame.pts), decoded: frame };
  }

  async process(_slot: number, frame: Frame): Promise<ProcessedPicture | null> {
    return this.processor ? this.processor.process(frame) : null;
  }

  drop(frame: Frame): void {
    frame.free();
  }

  release(picture: ProcessedPicture): void {
    this.processor?.release(picture);
  }

  /** The number in the picture's block code where the clip carries one, else the timestamp's. */
  shownFrame(slot: number, picture: ProcessedPicture | null): number {
    if (!picture || this.coded === false) return slot;
    const code = readFrameCode(picture.width, picture.height, (x, y) => picture.pixels[y * picture.stride + x * 4 + 1] ?? 0);
    this.coded ??= this.recorder.frameCode = code === slot;
    return this.coded ? (code ?? -1) : slot;
  }

  get frameCode(): boolean {
    return this.coded ?? false;
  }

  close(): Promise<void> {
    this.decoder.close();
    this.processor?.close();
    return Promise.resolve();
  }
}

/** Row of the packet table at each decode-order position of the played slots. */
function positionsToRows(packets: PacketTable, slotCount: number): Uint32Array {
  const rows: number[] = [];
  for (let row = 0; row < packets.length; row++) if ((packets.slot[row] as number) < slotCount) rows.push(row);
  return Uint32Array.from(rows);
}
