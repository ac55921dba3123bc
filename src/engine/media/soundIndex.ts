import { AVMEDIA_TYPE_AUDIO, AV_PKT_FLAG_DISCARD } from 'node-av/constants';
import { Codec, type FormatContext, type Packet, type Stream } from 'node-av/lib';
import { audioLabel } from '@/core/media/identity';
import { encodeSoundTable, soundTableFrom, type SoundRow } from '@/core/media/soundTable';
import { soundUnitsOf, type SoundUnits, type Wrapping } from '@/core/media/wrapping';
import { toNumber } from '@/core/time/rational';
import { inPlace } from '../inPlace';
import { audioTrack } from './identify';
import type { ProbedClip, SoundSetup, SoundSource } from './streamFacts';

/** Bytes that a container may put in front of a packet's data: keys and lengths. */
const mostShift = 64;
const comparedBytes = 48;
/** Packets whose places are proved: the first ones, and some of all others. */
const first = 4;
const every = 256;
const mostSamples = 64;

/** A unit of a wrapped stream that reaches over more of the file is damaged, or not worth its reading. */
const mostUnitBytes = 2 ** 24;

/** A packet as the demultiplexer gave it, to prove its place. */
interface Sample {
  readonly row: number;
  readonly data: Buffer;
}

/** Collects where the packets of a clip's best sound track lie, while a scan passes them. */
export class SoundIndex {
  private readonly rows: { offset: number; size: number; pts: number }[] = [];
  private readonly samples: Sample[] = [];
  /** Of a wrapped stream: its units, found while those of the pictures are. */
  readonly units: SoundUnits | null;

  private constructor(
    private readonly stream: Stream,
    wrapping: Wrapping | null,
  ) {
    this.units = wrapping && soundUnitsOf(wrapping, stream.id);
  }

  /** @param wrapping how the container wraps its pictures @returns null where the clip has no sound that can be decoded here */
  static of(input: FormatContext, wrapping: Wrapping | null): SoundIndex | null {
    const stream = input.streams[input.findBestStream(AVMEDIA_TYPE_AUDIO)];
    if (!stream || !Codec.findDecoder(stream.codecpar.codecId)) return null;
    if (stream.codecpar.sampleRate <= 0 || stream.codecpar.channelLayout.nbChannels <= 0) return null;
    return new SoundIndex(stream, wrapping);
  }

  /** Takes a packet of any stream. */
  note(packet: Packet): void {
    const { rows, samples } = this;
    if (packet.streamIndex !== this.stream.index || this.units || packet.hasFlags(AV_PKT_FLAG_DISCARD))
      return;
    const wanted = rows.length < first || rows.length % every === 0;
    if (wanted && packet.data && samples.length < mostSamples)
      samples.push({ row: rows.length, data: Buffer.from(packet.data.subarray(0, comparedBytes)) });
    rows.push({ offset: Number(packet.pos), size: packet.size, pts: Number(packet.pts) });
  }

  /**
   * The table of the packets that passed.
   * @param firstPicture time of the clip's first picture, s
   * @returns null where they cannot be read by byte range, as where they are made up of what other packets hold
   */
  async found(path: string, firstPicture: number): Promise<ProbedClip['sound']> {
    const { stream } = this;
    const at = (pts: number) =>
      Math.abs(pts) < 2 ** 62 ? pts * toNumber(stream.timeBase) - firstPicture : Number.NaN;
    if (this.units) {
      const rows = this.units.rows
        .map(({ offset, end, pts }): SoundRow => ({ offset, size: end - offset, at: at(pts) }))
        .filter(({ size }) => size <= mostUnitBytes);
      return rows.every((row) => Number.isNaN(row.at))
        ? null
        : { setup: { ...this.setup, wrapping: this.units.wrapping }, packets: soundTableFrom(rows) };
    }
    const shift = await this.shift(path);
    if (shift === null) return null;
    const rows = this.rows.map(({ offset, size, pts }): SoundRow => ({
      offset: offset + shift,
      size,
      at: at(pts),
    }));
    return { setup: this.setup, packets: soundTableFrom(rows) };
  }

  private get setup(): SoundSetup {
    const { codecpar } = this.stream;
    const track = audioTrack(this.stream);
    return {
      label: audioLabel(track),
      isStored: track.bitDepth !== null,
      codecId: codecpar.codecId,
      codecTag: codecpar.codecTag,
      sampleFormat: codecpar.format,
      sampleRate: codecpar.sampleRate,
      channels: codecpar.channelLayout.nbChannels,
      profile: codecpar.profile,
      bitsPerCodedSample: codecpar.bitsPerCodedSample,
      extradata: codecpar.extradata?.toString('base64') ?? null,
    };
  }

  /** How far behind the places that the container tells packets begin, proved by the file; null where they do not lie there. */
  private shift(path: string): Promise<number | null> {
    const { rows, samples } = this;
    if (rows.length === 0 || rows.some(({ offset }) => offset < 0)) return Promise.resolve(null);
    return inPlace(path, async (handle) => {
      let shift: number | null = null;
      for (const { row, data } of samples) {
        const bytes = Buffer.alloc(mostShift + comparedBytes);
        const { bytesRead } = await handle.read(
          bytes,
          0,
          bytes.length,
          (rows[row] as { offset: number }).offset,
        );
        const there = bytes.subarray(0, bytesRead);
        if (shift === null) {
          const found = there.indexOf(data);
          if (found < 0 || found > mostShift) return null;
          shift = found;
        } else if (!there.subarray(shift, shift + data.length).equals(data)) return null;
      }
      return shift;
    });
  }
}

/** A clip's sound as runs are given it. */
export const packedSound = (sound: ProbedClip['sound']): SoundSource | null =>
  sound && { setup: sound.setup, packets: encodeSoundTable(sound.packets) };
