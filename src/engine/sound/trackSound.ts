import type { AVCodecID } from 'node-av/constants';
import { CodecParser, Packet, type CodecContext } from 'node-av/lib';
import { endOfRead, firstPacketFor, type SoundTable } from '@/core/media/soundTable';
import { unwrap } from '@/core/media/wrapping';
import { monotonicUs } from '../clock';
import { channels, contextOfSetup, noTime, SoundDecoder } from '../codec/soundDecoder';
import type { SoundSetup } from '../media/streamFacts';

/** Read at once of what lies together. */
const mostBytes = 65_536;
/** Packets decoded before the first that is heard: what models sound begins in silence, what stores it does not. */
const packetsBefore = ({ isStored }: SoundSetup): number => (isStored ? 0 : 2);

/** A clip's sound, ready to be read. */
export interface SoundTrack {
  /** As messages name it. */
  readonly name: string;
  readonly setup: SoundSetup;
  readonly packets: SoundTable;
  /** Bytes at a place of the clip, fewer at its end. @throws where they cannot be read */
  readonly read: (offset: number, bytes: number) => Buffer;
}

/** What some sound took, µs; added to by what works on it. */
export interface SoundCosts {
  readUs: number;
  decodeUs: number;
  mixUs: number;
  bytes: number;
  /** The decoder refused some of it, or there is none. */
  isBroken: boolean;
}

/** A stretch of a track's sound from a moment on, worked out as it is taken. */
export class TrackSound {
  private readonly decoder: SoundDecoder | null;
  private readonly context: CodecContext | null;
  private readonly parser: CodecParser | null;
  private row: number;
  private readonly packet = new Packet();
  private block: { readonly data: Buffer; readonly from: number; readonly end: number } | null = null;

  /**
   * @param from where it begins, s from the clip's first picture
   * @param until nothing is read that sounds later
   */
  constructor(
    private readonly track: SoundTrack,
    private readonly from: number,
    private readonly until: number,
  ) {
    this.packet.alloc();
    const context = contextOfSetup(track.setup, track.name);
    this.decoder = context && SoundDecoder.open(context);
    this.parser = track.setup.wrapping && context ? parserOf(track.setup.codecId) : null;
    this.context = context?.context ?? null;
    this.row = firstPacketFor(track.packets, from, packetsBefore(track.setup));
  }

  /** The next samples, both channels by turns; silence where there are none. @param costs added to */
  take(samples: number, costs: SoundCosts): Float32Array {
    const { decoder } = this;
    if (!decoder) {
      costs.isBroken = true;
      return new Float32Array(samples * channels);
    }
    while (decoder.ready < samples && this.more(decoder, costs));
    return decoder.take(samples);
  }

  /** Decodes the next packet; false at the end. */
  private more(decoder: SoundDecoder, costs: SoundCosts): boolean {
    const { length, at } = this.track.packets;
    if (this.row > length) return false;
    const isEnd = this.row === length || (at[this.row] as number) >= this.until;
    const data = isEnd ? null : this.readRow(costs);
    const begun = monotonicUs();
    const isWhole =
      data === null ? decoder.decode(null) : this.decodeBytes(decoder, data, this.timeOf(this.row));
    costs.decodeUs += monotonicUs() - begun;
    // Where it begins in the middle, the first packets may need some that come before.
    if (!isWhole && (this.row === 0 || (at[this.row] as number) > this.from)) costs.isBroken = true;
    const decoded = monotonicUs();
    decoder.resample();
    costs.mixUs += monotonicUs() - decoded;
    this.row = isEnd ? length + 1 : this.row + 1;
    return true;
  }

  /** In samples of the track, counted from where the stretch begins. */
  private timeOf(row: number): bigint {
    const { packets, setup } = this.track;
    return BigInt(Math.round(((packets.at[row] as number) - this.from) * setup.sampleRate));
  }

  private readRow(costs: SoundCosts): Buffer {
    const { packets, read, setup } = this.track;
    const { row } = this;
    if (!this.block || row < this.block.from || row >= this.block.end) {
      const begun = monotonicUs();
      const end = endOfRead(packets, row, mostBytes, this.until);
      const offset = packets.offset[row] as number;
      const last = end - 1;
      const bytes = (packets.offset[last] as number) + (packets.size[last] as number) - offset;
      const data = read(offset, bytes);
      this.block = { data, from: row, end };
      costs.bytes += data.length;
      costs.readUs += monotonicUs() - begun;
    }
    const { data, from } = this.block;
    const begins = (packets.offset[row] as number) - (packets.offset[from] as number);
    const bytes = data.subarray(begins, begins + (packets.size[row] as number));
    if (!setup.wrapping) return bytes;
    const essence = unwrap(setup.wrapping, bytes, 0, bytes.length);
    return Buffer.from(essence.buffer, essence.byteOffset, essence.byteLength);
  }

  private decodeBytes(decoder: SoundDecoder, data: Buffer, pts: bigint): boolean {
    if (this.parser) return this.decodeParsed(decoder, this.parser, data, pts);
    if (data.length === 0) return false;
    this.packet.data = data;
    this.packet.pts = this.packet.dts = pts;
    const isWhole = decoder.decode(this.packet);
    this.packet.unref();
    return isWhole;
  }

  /** Units of a wrapped stream need not begin with a packet, or hold a whole one. */
  private decodeParsed(decoder: SoundDecoder, parser: CodecParser, data: Buffer, begins: bigint): boolean {
    let isWhole = data.length > 0;
    let pts = begins;
    for (let at = 0; at < data.length;) {
      const passed = parser.parse2(this.context as CodecContext, this.packet, data.subarray(at), pts, pts, 0);
      if (passed < 0) return false;
      at += passed;
      pts = noTime;
      if (this.packet.size > 0) {
        if (!decoder.decode(this.packet)) isWhole = false;
        this.packet.unref();
      } else if (passed === 0) return false;
    }
    return isWhole;
  }

  close(): void {
    this.parser?.close();
    this.decoder?.close();
    this.packet.free();
  }
}

/** What finds packets in a stream; null for codecs whose units are packets. */
function parserOf(codecId: number): CodecParser | null {
  const parser = new CodecParser();
  try {
    parser.init(codecId as AVCodecID);
    return parser;
  } catch {
    return null;
  }
}
