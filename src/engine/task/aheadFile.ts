import { mkdir, open, readFile, rm, writeFile, type FileHandle } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { AVPacketFlag, AVPacketSideDataType } from 'node-av/constants';
import { Packet, Rational, type CodecParameters, type Stream } from 'node-av/lib';
import type { CodecEncoder } from '../codec/pictureEncoder';
import { EngineError, fileError } from '../errors';

/** Folder of what was encoded ahead for a trial. Whoever started the trial removes it. */
export const aheadFolder = (trialId: string): string => join(tmpdir(), `navvy-ahead-${trialId}`);

export async function removeAhead(folder: string): Promise<void> {
  await rm(folder, { recursive: true, force: true });
}

/** How a track is described, as far as that goes into a file. */
const described = [
  'codecType',
  'codecId',
  'format',
  'width',
  'height',
  'profile',
  'level',
  'videoDelay',
  'bitsPerCodedSample',
  'bitsPerRawSample',
  'colorRange',
  'colorPrimaries',
  'colorTrc',
  'colorSpace',
  'chromaLocation',
] as const;
type Described = Pick<CodecParameters, (typeof described)[number]>;

interface Ratio {
  readonly num: number;
  readonly den: number;
}

interface AheadIndex {
  readonly track: Described & {
    readonly extradata: string | null;
    readonly bitRate: string;
    /** What encoders tell of a stream besides, as the codec library lays it out in memory. */
    readonly sideData: readonly { readonly type: AVPacketSideDataType; readonly data: string }[];
  };
  readonly timeBase: Ratio;
  readonly rate: Ratio;
  /** By packet, in the order in which they came out. */
  readonly pts: readonly number[];
  readonly dts: readonly number[];
  readonly bytes: readonly number[];
  readonly flags: readonly number[];
}

/** Keeps packets that come out of an encoder, to be given out later by a stand-in. */
export class AheadWriter {
  private readonly pts: number[] = [];
  private readonly dts: number[] = [];
  private readonly bytes: number[] = [];
  private readonly flags: number[] = [];

  private constructor(
    private readonly folder: string,
    private readonly file: FileHandle,
  ) {}

  /** @throws EngineError when there is no place for it */
  static async open(folder: string): Promise<AheadWriter> {
    try {
      await removeAhead(folder);
      await mkdir(folder);
      return new AheadWriter(folder, await open(join(folder, 'packets'), 'w'));
    } catch (error) {
      throw fileError(error, folder);
    }
  }

  /** Keeps packets, and frees them. @throws EngineError when there is no room for them */
  async add(packets: readonly Packet[]): Promise<void> {
    for (const packet of packets) {
      const { data } = packet;
      this.pts.push(Number(packet.pts));
      this.dts.push(Number(packet.dts));
      this.bytes.push(data?.length ?? 0);
      this.flags.push(packet.flags);
      if (data)
        await this.file.appendFile(data).catch((error: unknown) => {
          throw fileError(error, this.folder);
        });
      packet.free();
    }
  }

  /** @param encoder what came out of it was kept */
  async close({ timeBase, rate, parameters: track }: CodecEncoder): Promise<void> {
    const { pts, dts, bytes, flags } = this;
    const index: AheadIndex = {
      track: {
        ...(Object.fromEntries(described.map((name) => [name, track[name]])) as unknown as Described),
        extradata: track.extradata?.toString('base64') ?? null,
        bitRate: String(track.bitRate),
        sideData: track.getAllCodedSideData().map(({ type, data }) => ({
          type,
          data: data.toString('base64'),
        })),
      },
      timeBase: { num: timeBase.num, den: timeBase.den },
      rate: { num: rate.num, den: rate.den },
      pts,
      dts,
      bytes,
      flags,
    };
    track.free();
    await writeFile(join(this.folder, 'index.json'), JSON.stringify(index));
    // What is still to be written would fall into the measurement.
    await this.file.datasync();
    await this.file.close();
  }

  abandon(): Promise<void> {
    return this.file.close().catch(() => undefined);
  }
}

/** Packets that were kept, in their order. */
export class AheadReader {
  private next = 0;
  private offset = 0;
  /** The latest picture among the packets up to the next. */
  private latest = -1;

  private constructor(
    private readonly file: FileHandle,
    private readonly index: AheadIndex,
  ) {}

  /** @throws EngineError when nothing was kept there */
  static async open(folder: string): Promise<AheadReader> {
    try {
      const index = JSON.parse(await readFile(join(folder, 'index.json'), 'utf8')) as AheadIndex;
      return new AheadReader(await open(join(folder, 'packets'), 'r'), index);
    } catch (error) {
      throw new EngineError('simulated-pictures-gone', {}, { cause: error });
    }
  }

  get timeBase(): Rational {
    return new Rational(this.index.timeBase.num, this.index.timeBase.den);
  }

  describe(track: Stream): void {
    const { extradata, bitRate, sideData, ...plain } = this.index.track;
    Object.assign(track.codecpar, plain, {
      bitRate: BigInt(bitRate),
      extradata: extradata === null ? null : Buffer.from(extradata, 'base64'),
    });
    for (const { type, data } of sideData) track.codecpar.addCodedSideData(type, Buffer.from(data, 'base64'));
    const { rate } = this.index;
    track.timeBase = this.timeBase;
    track.avgFrameRate = new Rational(rate.num, rate.den);
    track.codecpar.sampleAspectRatio = track.sampleAspectRatio = new Rational(1, 1);
  }

  /** The next packet that so many pictures settle; null where it wants more of them, or there is none. */
  async take(pictures: number): Promise<Packet | null> {
    const { next, index } = this;
    const [pts, bytes] = [index.pts[next], index.bytes[next]];
    if (pts === undefined || bytes === undefined) return null;
    if (Math.max(this.latest, pts) >= pictures) return null;
    this.latest = Math.max(this.latest, pts);
    const data = Buffer.alloc(bytes);
    await this.file.read(data, 0, bytes, this.offset);
    this.offset += bytes;
    this.next++;
    const packet = new Packet();
    packet.alloc();
    packet.data = data;
    packet.pts = BigInt(pts);
    packet.dts = BigInt(index.dts[next] ?? pts);
    packet.setFlags((index.flags[next] ?? 0) as AVPacketFlag);
    return packet;
  }

  async close(): Promise<void> {
    await this.file.close();
  }
}
