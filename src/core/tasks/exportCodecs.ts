import { faultAt, type Fault } from '../fault';
import { none, quantity } from '../format';
import type { Rational } from '../time/rational';

export const exportCodecIds = [
  'h264',
  'hevc',
  'av1',
  'prores',
  'dnxhr',
  'mjpeg',
  'ffv1',
  'png',
  'tiff',
  'dpx',
] as const;
export type ExportCodecId = (typeof exportCodecIds)[number];

export const exportPictures = [
  '8-bit 4:2:0',
  '8-bit 4:2:2',
  '10-bit 4:2:0',
  '10-bit 4:2:2',
  '10-bit 4:4:4',
  '8-bit RGB',
  '10-bit RGB',
  '16-bit RGB',
] as const;
/** Depth and chroma of what is written. */
export type ExportPicture = (typeof exportPictures)[number];

export const exportControls = ['quality', 'rate', 'class', 'lossless'] as const;
/** What decides how large the result gets. */
export type ExportControl = (typeof exportControls)[number];

export const exportSpeeds = ['fastest', 'fast', 'balanced', 'thorough'] as const;
/** How hard an encoder tries. */
export type ExportSpeed = (typeof exportSpeeds)[number];

export const exportSounds = ['none', 'aac', 'pcm'] as const;
export type ExportSound = (typeof exportSounds)[number];

/** How an export is written. */
export interface ExportChoice {
  readonly codec: ExportCodecId;
  readonly picture: ExportPicture;
  readonly control: ExportControl;
  /** Of `quality`: as the codec counts it, less is better. */
  readonly quality: number | null;
  /** Of `rate`: megabits a second. */
  readonly megabits: number | null;
  /** Of `class`: the codec's own data-rate class. */
  readonly rateClass: string | null;
  /** Frames from key to key; 1: every frame is a key frame. Null where the codec has no choice. */
  readonly keyDistance: number | null;
  /** Null where the codec has no choice. */
  readonly speed: ExportSpeed | null;
  readonly sound: ExportSound;
}

/** What a codec can be told. */
export interface ExportCodec {
  readonly name: string;
  /** As the codec library names it. */
  readonly encoder: string;
  readonly container: 'mp4' | 'mov' | 'mkv' | 'sequence';
  /** Ending of the file, or of each picture of a sequence. */
  readonly ending: string;
  /** The pixel format of each picture that it takes; the first is the usual one. */
  readonly pictures: Readonly<Partial<Record<ExportPicture, string>>>;
  readonly controls: readonly ExportControl[];
  /** The range of its quality, the usual one, and how it is called. */
  readonly quality?: {
    readonly name: string;
    readonly best: number;
    readonly worst: number;
    readonly usual: number;
  };
  readonly classes?: readonly {
    readonly id: string;
    readonly name: string;
    readonly pictures: readonly ExportPicture[];
  }[];
  readonly speeds?: Readonly<Record<ExportSpeed, string>>;
  /** It can refer from frame to frame. */
  readonly longGop: boolean;
  /** Bits of a pixel that it takes at its usual quality at most, for an estimate of the size. */
  readonly bitsPerPixel: number;
  readonly sounds: readonly ExportSound[];
}

const tenBit422: readonly ExportPicture[] = ['10-bit 4:2:2'];
const tenBit444: readonly ExportPicture[] = ['10-bit 4:4:4'];
const inFrames = { fastest: 'ultrafast', fast: 'veryfast', balanced: 'medium', thorough: 'slow' };
const interchange = {
  '8-bit 4:2:0': 'yuv420p',
  '8-bit 4:2:2': 'yuv422p',
  '10-bit 4:2:0': 'yuv420p10le',
  '10-bit 4:2:2': 'yuv422p10le',
};

export const exportCodecs: Readonly<Record<ExportCodecId, ExportCodec>> = {
  h264: {
    name: 'H.264',
    encoder: 'libx264',
    container: 'mp4',
    ending: 'mp4',
    pictures: interchange,
    controls: ['quality', 'rate'],
    quality: { name: 'CRF', best: 0, worst: 51, usual: 20 },
    speeds: inFrames,
    longGop: true,
    bitsPerPixel: 0.6,
    sounds: ['aac', 'none'],
  },
  hevc: {
    name: 'HEVC',
    encoder: 'libx265',
    container: 'mp4',
    ending: 'mp4',
    pictures: interchange,
    controls: ['quality', 'rate'],
    quality: { name: 'CRF', best: 0, worst: 51, usual: 22 },
    speeds: { ...inFrames, fast: 'superfast' },
    longGop: true,
    bitsPerPixel: 0.5,
    sounds: ['aac', 'none'],
  },
  av1: {
    name: 'AV1',
    encoder: 'libsvtav1',
    container: 'mp4',
    ending: 'mp4',
    pictures: { '10-bit 4:2:0': 'yuv420p10le', '8-bit 4:2:0': 'yuv420p' },
    controls: ['quality', 'rate'],
    quality: { name: 'CRF', best: 1, worst: 63, usual: 30 },
    speeds: { fastest: '12', fast: '10', balanced: '8', thorough: '6' },
    longGop: true,
    bitsPerPixel: 0.5,
    sounds: ['aac', 'none'],
  },
  prores: {
    name: 'ProRes',
    encoder: 'prores_aw',
    container: 'mov',
    ending: 'mov',
    pictures: { '10-bit 4:2:2': 'yuv422p10le', '10-bit 4:4:4': 'yuv444p10le' },
    controls: ['class'],
    classes: [
      { id: '0', name: 'Proxy', pictures: tenBit422 },
      { id: '1', name: 'LT', pictures: tenBit422 },
      { id: '2', name: 'Standard', pictures: tenBit422 },
      { id: '3', name: 'HQ', pictures: tenBit422 },
      { id: '4', name: '4444', pictures: tenBit444 },
    ],
    longGop: false,
    bitsPerPixel: 7,
    sounds: ['pcm', 'none'],
  },
  dnxhr: {
    name: 'DNxHR',
    encoder: 'dnxhd',
    container: 'mov',
    ending: 'mov',
    pictures: { '8-bit 4:2:2': 'yuv422p', '10-bit 4:2:2': 'yuv422p10le', '10-bit 4:4:4': 'yuv444p10le' },
    controls: ['class'],
    classes: [
      { id: 'dnxhr_lb', name: 'LB', pictures: ['8-bit 4:2:2'] },
      { id: 'dnxhr_sq', name: 'SQ', pictures: ['8-bit 4:2:2'] },
      { id: 'dnxhr_hq', name: 'HQ', pictures: ['8-bit 4:2:2'] },
      { id: 'dnxhr_hqx', name: 'HQX', pictures: tenBit422 },
      { id: 'dnxhr_444', name: '444', pictures: tenBit444 },
    ],
    longGop: false,
    bitsPerPixel: 8,
    sounds: ['pcm', 'none'],
  },
  mjpeg: {
    name: 'Motion JPEG',
    encoder: 'mjpeg',
    container: 'mov',
    ending: 'mov',
    pictures: { '8-bit 4:2:2': 'yuvj422p', '8-bit 4:2:0': 'yuvj420p' },
    controls: ['quality'],
    quality: { name: 'Quantiser', best: 1, worst: 31, usual: 3 },
    longGop: false,
    bitsPerPixel: 5,
    sounds: ['pcm', 'none'],
  },
  ffv1: {
    name: 'FFV1',
    encoder: 'ffv1',
    container: 'mkv',
    ending: 'mkv',
    pictures: {
      '10-bit 4:2:2': 'yuv422p10le',
      '8-bit 4:2:0': 'yuv420p',
      '8-bit 4:2:2': 'yuv422p',
      '10-bit 4:2:0': 'yuv420p10le',
      '10-bit 4:4:4': 'yuv444p10le',
    },
    controls: ['lossless'],
    longGop: false,
    bitsPerPixel: 20,
    sounds: ['pcm', 'none'],
  },
  png: {
    name: 'PNG sequence',
    encoder: 'png',
    container: 'sequence',
    ending: 'png',
    pictures: { '8-bit RGB': 'rgb24', '16-bit RGB': 'rgb48be' },
    controls: ['lossless'],
    longGop: false,
    bitsPerPixel: 48,
    sounds: ['none'],
  },
  tiff: {
    name: 'TIFF sequence',
    encoder: 'tiff',
    container: 'sequence',
    ending: 'tif',
    pictures: { '8-bit RGB': 'rgb24', '16-bit RGB': 'rgb48le' },
    controls: ['lossless'],
    longGop: false,
    bitsPerPixel: 50,
    sounds: ['none'],
  },
  dpx: {
    name: 'DPX sequence',
    encoder: 'dpx',
    container: 'sequence',
    ending: 'dpx',
    pictures: { '10-bit RGB': 'gbrp10be', '8-bit RGB': 'rgb24', '16-bit RGB': 'rgb48be' },
    controls: ['lossless'],
    longGop: false,
    bitsPerPixel: 50,
    sounds: ['none'],
  },
};

/** Why a choice cannot be written, with the field at fault; null where it can. */
export function choiceProblem(choice: ExportChoice): Fault<keyof ExportChoice> | null {
  const { name, pictures, controls, quality, classes, speeds, longGop, sounds } = exportCodecs[choice.codec];
  const oneOf = (words: readonly string[]) => words.join(' or ');
  if (!pictures[choice.picture])
    return faultAt('picture', 'export-picture', { name, pictures: oneOf(Object.keys(pictures)) });
  if (!controls.includes(choice.control))
    return faultAt('control', 'export-control', { name, controls: oneOf(controls) });
  if (choice.control === 'quality' && quality) {
    const { best, worst } = quality;
    if (choice.quality === null || choice.quality < best || choice.quality > worst)
      return faultAt('quality', 'export-quality', { name, quality: quality.name, best, worst });
  }
  if (choice.control === 'rate' && choice.megabits === null) return faultAt('megabits', 'export-rate');
  if (choice.control === 'class') {
    const found = classes?.find(({ id }) => id === choice.rateClass);
    if (!found)
      return faultAt('rateClass', 'export-class', {
        name,
        classes: oneOf((classes ?? []).map((one) => one.name)),
      });
    if (!found.pictures.includes(choice.picture))
      return faultAt('picture', 'export-class-picture', {
        name,
        rateClass: found.name,
        pictures: oneOf(found.pictures),
      });
  }
  if (choice.keyDistance !== null && choice.keyDistance > 1 && !longGop)
    return faultAt('keyDistance', 'export-key-distance', { name });
  if (choice.speed !== null && !speeds) return faultAt('speed', 'export-speed', { name });
  if (!sounds.includes(choice.sound))
    return faultAt('sound', 'export-sound', { name, sounds: oneOf(sounds) });
  return null;
}

/** An encoder as the codec library is told. */
export interface EncoderTold {
  readonly encoder: string;
  readonly pixelFormat: string;
  readonly options: Readonly<Record<string, string>>;
  /** Frames from key to key. */
  readonly keyDistance: number;
}

/** @param rate frames a second, for the distance of key frames where none is chosen: two seconds */
export function encoderTold(choice: ExportChoice, rate: Rational): EncoderTold {
  const { encoder, pictures, longGop, speeds } = exportCodecs[choice.codec];
  const usual = longGop ? Math.max(1, Math.round((2 * rate.num) / rate.den)) : 1;
  return {
    encoder,
    pixelFormat: pictures[choice.picture] ?? 'yuv420p',
    keyDistance: choice.keyDistance ?? usual,
    options: {
      ...(choice.speed && speeds ? { preset: speeds[choice.speed] } : {}),
      ...sizeOptions(choice),
      ...quietly[choice.codec],
    },
  };
}

const quietly: Readonly<Partial<Record<ExportCodecId, Readonly<Record<string, string>>>>> = {
  h264: { 'x264-params': 'log-level=error' },
  hevc: { 'x265-params': 'log-level=error' },
  ffv1: { level: '3', slices: '4', slicecrc: '1' },
};

function sizeOptions({ codec, control, quality, megabits, rateClass }: ExportChoice): Record<string, string> {
  switch (control) {
    case 'quality':
      return codec === 'mjpeg' ? { qmin: String(quality), qmax: String(quality) } : { crf: String(quality) };
    case 'rate': {
      const { b, ...ceiling } = rateOptions(megabits ?? 1);
      // This one takes a mean rate only.
      return codec === 'av1' ? { b } : { b, ...ceiling };
    }
    case 'class':
      return { profile: rateClass ?? '0' };
    case 'lossless':
      return {};
  }
}

/** A mean rate, and a ceiling over a second. */
export function rateOptions(megabits: number) {
  const bits = String(Math.round(megabits * 1e6));
  return { b: bits, maxrate: bits, bufsize: bits };
}

/** A choice in a few words: "H.264 8-bit 4:2:0, CRF 20, fast". */
export function choiceWords(choice: ExportChoice): string {
  const { name, quality, classes } = exportCodecs[choice.codec];
  const size = {
    quality: `${quality?.name ?? 'quality'} ${choice.quality}`,
    rate: quantity(choice.megabits ?? none, 'Mb/s'),
    class: classes?.find(({ id }) => id === choice.rateClass)?.name ?? '',
    lossless: 'lossless',
  }[choice.control];
  return [`${name} ${choice.picture}`, size, choice.speed ?? ''].filter(Boolean).join(', ');
}

/** The most that an export may well take, bytes: what is kept free for it. */
export function likelyBytes(
  choice: ExportChoice,
  {
    width,
    height,
    frames,
    seconds,
  }: { readonly width: number; readonly height: number; readonly frames: number; readonly seconds: number },
): number {
  const picture =
    choice.control === 'rate'
      ? ((choice.megabits ?? 0) * 1e6 * seconds) / 8
      : (exportCodecs[choice.codec].bitsPerPixel * width * height * frames) / 8;
  const sound = { none: 0, aac: 40_000, pcm: 300_000 }[choice.sound] * seconds;
  return Math.ceil(picture * 1.1 + sound + 1e6);
}

/** A delivery in plain words: where an export begins, before it is changed. */
export interface Delivery {
  readonly id: string;
  readonly name: string;
  readonly purpose: string;
  readonly choice: ExportChoice;
}

/** What a choice begins with. */
export const plainChoice: ExportChoice = {
  codec: 'h264',
  picture: '8-bit 4:2:0',
  control: 'quality',
  quality: null,
  megabits: null,
  rateClass: null,
  keyDistance: null,
  speed: null,
  sound: 'none',
};

export const deliveries: readonly Delivery[] = [
  {
    id: 'review',
    name: 'Review copy',
    purpose: 'small, quick to make, plays anywhere',
    choice: { ...plainChoice, quality: 24, speed: 'fast', sound: 'aac' },
  },
  {
    id: 'web',
    name: 'Web upload',
    purpose: 'good enough to be encoded again by whoever shows it',
    choice: { ...plainChoice, control: 'rate', megabits: 20, speed: 'balanced', sound: 'aac' },
  },
  {
    id: 'master',
    name: 'Master',
    purpose: 'kept, and source of all later copies',
    choice: {
      ...plainChoice,
      codec: 'prores',
      picture: '10-bit 4:2:2',
      control: 'class',
      rateClass: '3',
      sound: 'pcm',
    },
  },
  {
    id: 'broadcast',
    name: 'Broadcast',
    purpose: 'intra frames at a constant high rate, for playout',
    choice: {
      ...plainChoice,
      codec: 'dnxhr',
      picture: '10-bit 4:2:2',
      control: 'class',
      rateClass: 'dnxhr_hqx',
      sound: 'pcm',
    },
  },
  {
    id: 'small',
    name: 'Small master',
    purpose: '10 bits in the least space, slow to make',
    choice: {
      ...plainChoice,
      codec: 'hevc',
      picture: '10-bit 4:2:2',
      quality: 18,
      speed: 'balanced',
      sound: 'aac',
    },
  },
  {
    id: 'archive',
    name: 'Archive',
    purpose: 'lossless, with a checksum in every slice',
    choice: { ...plainChoice, codec: 'ffv1', picture: '10-bit 4:2:2', control: 'lossless', sound: 'pcm' },
  },
  {
    id: 'frames',
    name: 'Frames for effects',
    purpose: 'one file a frame',
    choice: { ...plainChoice, codec: 'dpx', picture: '10-bit RGB', control: 'lossless' },
  },
];
