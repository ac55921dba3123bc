import { faultAt, type Fault } from '../fault';
import { kindOfDevice, type DeviceEncoding, type DeviceReport } from '../decode/device';
import { standInDevices } from '../decode/standIns';
import type { Rational } from '../time/rational';
import {
  encoderTold,
  exportCodecs,
  rateOptions,
  type EncoderTold,
  type ExportChoice,
  type ExportCodecId,
  type ExportPicture,
} from './exportCodecs';

/** One line of a stand-in's table of what it encodes. */
interface EncodeRow {
  readonly codec: ExportCodecId;
  readonly pictures: readonly ExportPicture[];
  readonly maxWidth: number;
  readonly maxHeight: number;
  /** Rate of the encode engine for this codec. */
  readonly megapixelsPerSecond: number;
}

/** The encoding side of a made-up accelerator. */
interface StandInEncoding {
  /** Time from the first picture until it begins with it, µs. */
  readonly startUs: number;
  /** Part of every picture's time that does not depend on its size, µs: handing it over. */
  readonly perFrameUs: number;
  readonly rows: readonly EncodeRow[];
}

const row = (
  codec: ExportCodecId,
  pictures: readonly ExportPicture[],
  [maxWidth, maxHeight]: readonly [number, number],
  megapixelsPerSecond: number,
): EncodeRow => ({ codec, pictures, maxWidth, maxHeight, megapixelsPerSecond });

/** What the stand-in accelerators encode, by their ids. Made up, as they are. */
const standInEncoding: Readonly<Record<string, StandInEncoding>> = {
  'stand-in-neap': {
    startUs: 45_000,
    perFrameUs: 1_400,
    rows: [row('h264', ['8-bit 4:2:0'], [4096, 2304], 190)],
  },
  'stand-in-spring': {
    startUs: 25_000,
    perFrameUs: 500,
    rows: [
      row('h264', ['8-bit 4:2:0', '10-bit 4:2:0', '8-bit 4:2:2', '10-bit 4:2:2'], [8192, 4320], 720),
      row('hevc', ['8-bit 4:2:0', '10-bit 4:2:0', '8-bit 4:2:2', '10-bit 4:2:2'], [8192, 4320], 640),
      row('av1', ['8-bit 4:2:0', '10-bit 4:2:0'], [8192, 4320], 560),
    ],
  },
};

/** Everything that a stand-in encodes; nothing of a device that is none. */
export function standInEncodings(deviceId: string): DeviceEncoding[] {
  return (standInEncoding[deviceId]?.rows ?? []).flatMap(({ codec, pictures }) =>
    pictures.map((picture) => ({ codec, picture })),
  );
}

/** The stand-in accelerators as a rig's devices are told of: they are there without being tried. */
export function standInReports(): DeviceReport[] {
  return standInDevices.map(({ id, name, about }) => ({
    id,
    name,
    simulated: true,
    usable: true,
    encodes: standInEncodings(id),
    about,
  }));
}

export const isStandInEncoder = (deviceId: string): boolean => deviceId in standInEncoding;

/** What a stand-in takes before the first picture, and for each, µs. */
export interface StandInTimes {
  readonly startUs: number;
  readonly frameUs: number;
}

/** The times of a stand-in; null where it does not encode that. */
export function standInTimes(
  deviceId: string,
  { codec, picture }: DeviceEncoding,
  { width, height }: Raster,
): StandInTimes | null {
  const device = standInEncoding[deviceId];
  const line = device?.rows.find((one) => one.codec === codec && one.pictures.includes(picture));
  if (!device || !line || width > line.maxWidth || height > line.maxHeight) return null;
  return {
    startUs: device.startUs,
    frameUs: device.perFrameUs + (width * height) / line.megapixelsPerSecond,
  };
}

interface Raster {
  readonly width: number;
  readonly height: number;
}

/** Why a device does not encode a choice, with the field at fault; null where it does. @param device undefined: the rig has none of that id */
export function deviceProblem(
  device: DeviceReport | undefined,
  choice: ExportChoice,
  raster: Raster,
): Fault<'device' | 'speed'> | null {
  if (!device) return faultAt('device', 'no-encode-device');
  const { id, name, simulated, encodes = [] } = device;
  if (encodes.length === 0) return faultAt('device', 'device-encodes-nothing', { name });
  const codec = exportCodecs[choice.codec].name;
  const pictures = encodes.filter((one) => one.codec === choice.codec).map(({ picture }) => picture);
  if (pictures.length === 0) return faultAt('device', 'device-lacks-codec', { name, codec });
  if (!pictures.includes(choice.picture))
    return faultAt('device', 'device-lacks-picture', { name, codec, pictures: pictures.join(' or ') });
  if (simulated && !standInTimes(id, choice, raster))
    return faultAt('device', 'device-raster', { name, width: raster.width, height: raster.height });
  if (choice.speed !== null) return faultAt('speed', 'device-speed');
  return null;
}

/** How the codec library ends the names of a kind of device's encoders, by its own name of the kind. */
const endings: Readonly<Record<string, string>> = {
  vaapi: 'vaapi',
  cuda: 'nvenc',
  qsv: 'qsv',
  amf: 'amf',
  vulkan: 'vulkan',
  videotoolbox: 'videotoolbox',
};

/** Pictures as devices take them: luma in one plane and chroma pairwise in another. */
const devicePictures: Readonly<Partial<Record<ExportPicture, string>>> = {
  '8-bit 4:2:0': 'nv12',
  '10-bit 4:2:0': 'p010le',
  '8-bit 4:2:2': 'nv16',
  '10-bit 4:2:2': 'p210le',
};

/** How a real device's encoder is told a quality, by the ending of its name. */
const qualityOptions: Readonly<Record<string, (quality: string) => Readonly<Record<string, string>>>> = {
  vaapi: (quality) => ({ rc_mode: 'CQP', qp: quality, global_quality: quality }),
  nvenc: (quality) => ({ rc: 'vbr', cq: quality }),
  qsv: (quality) => ({ global_quality: quality }),
  amf: (quality) => ({ rc: 'cqp', qp_i: quality, qp_p: quality }),
  vulkan: (quality) => ({ qp: quality }),
  videotoolbox: (quality) => ({ global_quality: quality }),
};

/** An encoder of a real device, as the codec library is told. */
export interface DeviceEncoder extends DeviceEncoding {
  /** As the codec library names it. */
  readonly encoder: string;
  /** Pictures as they are handed over. */
  readonly pixelFormat: string;
  /** The encoder takes only pictures that lie on the device: they are put there first. */
  readonly onDevice: boolean;
}

/** The encoders that a kind of device may have, to be tried. @param kind as the codec library names it */
export function encodersOfKind(kind: string): DeviceEncoder[] {
  const ending = endings[kind];
  if (ending === undefined) return [];
  return (['h264', 'hevc', 'av1'] as const).flatMap((codec) =>
    (Object.entries(devicePictures) as [ExportPicture, string][]).map(([picture, pixelFormat]) => ({
      codec,
      picture,
      encoder: `${codec}_${ending}`,
      pixelFormat,
      onDevice: kind === 'vaapi' || kind === 'vulkan',
    })),
  );
}

/** A real device with what its encoder takes. */
export type EncodeDevice = Pick<DeviceEncoder, 'onDevice'> & {
  /** As the codec library names it. */
  readonly kind: string;
};

/** Which encoder makes a task's pictures into a stream. */
export interface TaskEncoder extends EncoderTold {
  /** The real device that it is of; null: it computes on the processor. */
  readonly device: EncodeDevice | null;
}

/**
 * The encoder for a choice. That of a stand-in is the one in software whose pictures it gives out: how long that takes is no figure of it.
 * @param rate frames a second
 * @param deviceId null: in software
 * @returns null where the device has none for it
 */
export function taskEncoder(
  choice: ExportChoice,
  rate: Rational,
  deviceId: string | null,
): TaskEncoder | null {
  const software = encoderTold(choice, rate);
  if (deviceId === null) return { ...software, device: null };
  if (isStandInEncoder(deviceId)) return { ...encoderTold({ ...choice, speed: 'fast' }, rate), device: null };
  const kind = kindOfDevice(deviceId);
  const found = encodersOfKind(kind).find(
    ({ codec, picture }) => codec === choice.codec && picture === choice.picture,
  );
  if (!found) return null;
  const { encoder, pixelFormat, onDevice } = found;
  const { quality, megabits } = choice;
  const byQuality = qualityOptions[endings[kind] ?? ''];
  return {
    encoder,
    pixelFormat,
    keyDistance: software.keyDistance,
    options: choice.control === 'rate' ? rateOptions(megabits ?? 1) : (byQuality?.(String(quality)) ?? {}),
    device: { kind, onDevice },
  };
}
