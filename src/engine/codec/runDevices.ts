import type { HardwareDeviceContext } from 'node-av/lib';
import { kindOfDevice } from '@/core/decode/device';
import {
  reorderDepth,
  ShareOut,
  softwareId,
  type DecodedStream,
  type Decoding,
  type DeviceUse,
} from '@/core/decode/decoding';
import {
  frameTimeUs,
  readBackTimeUs,
  scaleTimeUs,
  standInDevices,
  supportFor,
  type StandInDevice,
} from '@/core/decode/standIns';
import type { Format } from '@/core/media/format';
import type { PacketTable } from '@/core/media/packetTable';
import { toNumber, type Rational } from '@/core/time/rational';
import { openDevice } from './deviceFrames';
import { EngineError } from '../errors';
import type { CodecSetup } from '../media/streamFacts';
import { Decoder, type OpenDecoder, type VideoDecoder } from './decoder';
import type { Raster } from '@/core/timeline/deviceRaster';
import { Beforehand, type TellBeforehand, type WantedFrames } from './beforehand';
import { StandInDecoder, standInUnits, type StandInUnits } from './standInDecoder';
import { frameBytes } from './window';

/** A device of a run, open. */
type OpenDevice =
  | { readonly kind: 'software' }
  | {
      readonly kind: 'real';
      readonly name: string;
      readonly context: HardwareDeviceContext;
      readonly scales: boolean;
    }
  | {
      readonly kind: 'stand-in';
      readonly device: StandInDevice;
      readonly units: StandInUnits;
      readonly scales: boolean;
    };
const onProcessor: OpenDevice = { kind: 'software' };

/** The clip that a stream is of. */
export interface StreamMedia {
  readonly setup: CodecSetup;
  readonly format: Format;
  readonly rate: Rational;
  readonly packets: PacketTable;
  readonly name?: string | undefined;
  /** Frames after which packets begin again, numbered on; absent: they do not. */
  readonly period?: number;
}

/**
 * The devices that decode a run, and what each drew of it. Streams are shared out as they come; one that is known
 * keeps its device. Made-up ones give pictures that were decoded before the run.
 */
export class RunDevices {
  private readonly shareOut: ShareOut;
  private readonly placeOf = new Map<string, number>();
  private readonly drawn = new Map<
    string,
    {
      readonly name: Pick<DecodedStream, 'item' | 'track' | 'clip' | 'device'>;
      readonly decoders: VideoDecoder[];
    }
  >();
  private readonly beforehand = new Beforehand();
  /** Reorder depths by medium. */
  private readonly depths = new Map<string, number>();

  private constructor(
    private readonly devices: readonly OpenDevice[],
    shares: readonly number[],
  ) {
    this.shareOut = new ShareOut(shares);
  }

  /** All is decoded by the processor. */
  static software(): RunDevices {
    return new RunDevices([], []);
  }

  /** @throws EngineError when a device does not open */
  static open(decoding: Decoding = []): RunDevices {
    const opened: OpenDevice[] = [];
    try {
      for (const use of decoding) opened.push(openOne(use));
    } catch (error) {
      for (const device of opened) freeOne(device);
      throw error;
    }
    return new RunDevices(
      opened,
      decoding.map(({ share }) => share),
    );
  }

  /** Some device scales its pictures before they come to memory. */
  get scale(): boolean {
    return this.devices.some((device) => device.kind !== 'software' && device.scales);
  }

  /** Bytes of pictures that wait for made-up devices. */
  get beforehandBytes(): number {
    return this.beforehand.bytes;
  }

  /**
   * Decodes what made-up devices may be asked for. Nothing where there is none, or none takes the format.
   * @param clips frames that may be wanted, by their medium; asked for only where there is a made-up device
   * @throws EngineError when it does not fit into memory, or a file cannot be read
   */
  async decodeBeforehand(
    clips: () => ReadonlyMap<string, WantedFrames>,
    tell: TellBeforehand,
  ): Promise<void> {
    const open = this.devices.filter((device) => device.kind === 'stand-in');
    const standIns = open.map(({ device }) => device);
    const scales = open.some((device) => device.scales);
    if (standIns.length === 0) return;
    const wanted = [...clips()].flatMap(([id, clip]): [string, WantedFrames][] =>
      clip.frames.size > 0 && standIns.some((device) => supportFor(device, clip.format) !== null)
        ? [[id, scales ? clip : { ...clip, rasters: [] }]]
        : [],
    );
    if (wanted.length > 0) await this.beforehand.decode(new Map(wanted), tell);
  }

  /**
   * A stream's share of the devices.
   * @param key the same for the same stream, whenever it is opened
   * @param of the timeline's item and track
   * @param id of its medium, by which frames that were decoded before are found
   * @param raster to which a device that scales brings its pictures; null: they come whole
   */
  stream(
    key: string,
    of: Pick<DecodedStream, 'item' | 'track'>,
    id: string,
    media: StreamMedia,
    raster: Raster | null = null,
  ): OpenDecoder {
    const { format, rate, name = '' } = media;
    const place = this.placeOf.get(key) ?? this.shareOut.next(format.width * format.height * toNumber(rate));
    this.placeOf.set(key, place);
    if (place >= 0 && !this.drawn.has(key))
      this.drawn.set(key, { name: { ...of, clip: name, device: place }, decoders: [] });
    return async (options) => {
      const decoder = await this.open(this.devices[place] ?? onProcessor, id, media, raster, options);
      this.drawn.get(key)?.decoders.push(decoder);
      return decoder;
    };
  }

  private async open(
    device: OpenDevice,
    id: string,
    { setup, format, rate, packets, name, period = Infinity }: StreamMedia,
    wanted: Raster | null,
    asked: Parameters<OpenDecoder>[0],
  ): Promise<VideoDecoder> {
    const options = { ...asked, rate, clipName: name };
    if (device.kind === 'software') return Decoder.open(setup, options);
    const raster = device.scales ? wanted : null;
    if (device.kind === 'real')
      return Decoder.open(setup, {
        ...options,
        device: { name: device.name, context: device.context, raster },
      });
    const line = supportFor(device.device, format);
    // What it does not support goes to software without a word.
    if (line === null) return Decoder.open(setup, options);
    const pictures = this.beforehand.of(id, raster);
    return new StandInDecoder({
      device: device.device,
      units: device.units,
      scaleUs: raster && scaleTimeUs(device.device, format),
      readBackUs: readBackTimeUs(device.device, frameBytes({ ...format, ...raster })),
      frameUs: frameTimeUs(device.device, line, format),
      heldBack: this.depthOf(id, packets),
      pictures: { pictureOf: (frame) => pictures.pictureOf(period === Infinity ? frame : frame % period) },
      clipName: name,
    });
  }

  /** Worked out once for a clip: its streams are opened while a run goes on. */
  private depthOf(id: string, { slot }: PacketTable): number {
    const depth = this.depths.get(id) ?? reorderDepth(slot);
    this.depths.set(id, depth);
    return depth;
  }

  /** What each stream was decoded by so far, in the order in which they drew; none where all is software. */
  get streams(): DecodedStream[] {
    return [...this.drawn.values()].flatMap(({ name, decoders }) => {
      const [decoder] = decoders;
      if (!decoder) return [];
      const frames = decoders.reduce((sum, { given }) => sum + given, 0);
      const onDevice = decoders.reduce((sum, one) => sum + one.onDevice, 0);
      const scaled = decoders.reduce((sum, one) => sum + one.scaled, 0);
      return { ...name, decoder: decoder.name, frames, onDevice, scaled };
    });
  }

  close(): void {
    this.beforehand.free();
    for (const device of this.devices) freeOne(device);
  }
}

function openOne({ deviceId, simulated, frames }: DeviceUse): OpenDevice {
  const scales = frames === 'scaled';
  if (deviceId === softwareId) return onProcessor;
  if (!simulated) {
    const name = kindOfDevice(deviceId);
    return { kind: 'real', name, context: openDevice(name), scales };
  }
  const device = standInDevices.find(({ id }) => id === deviceId);
  if (!device) throw new EngineError('stand-in-unknown');
  return { kind: 'stand-in', device, units: standInUnits(), scales };
}

function freeOne(device: OpenDevice): void {
  if (device.kind === 'real') device.context.free();
}
