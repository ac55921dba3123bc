import { rational, type Rational } from '@/core/time/rational';
import type { PictureFormat } from './picture';

/** One clip of the made-up documentary "Tidewrack". */
export interface DemoClip {
  readonly file: string;
  readonly label: string;
  readonly startTimecode: string;
  readonly rate: Rational;
  readonly frames: number;
  readonly picture: PictureFormat;
  readonly pixelFormat: string;
  readonly encoder: 'prores_aw' | 'libx264' | 'libx265' | 'mjpeg';
  readonly encoderOptions: Readonly<Record<string, string>>;
  readonly keyInterval: number | null;
  readonly bFrames: number;
  readonly seed: number;
  /** Strength of the still grain, in luma steps. */
  readonly texture: number;
  /** Strength of the grain that changes with every frame (spray over the tide), in luma steps. */
  readonly spray: number;
  /** Its sound: a stereo track, or none. */
  readonly sound?: 'pcm' | 'aac';
}

const fullHd = { width: 1920, height: 1080 };

/**
 * A clip of the kite camera from a card that began to fail: frames of it were written over (see `writeOver`).
 * It stands beside the others, since what is measured with them is measured with whole media.
 */
export const failingCardClip: DemoClip = {
  file: 'kite-camera/TW_KITE_0038.mp4',
  label: 'KITE',
  startTimecode: '10:02:11:00',
  rate: rational(24),
  frames: 96,
  picture: { width: 1280, height: 720, bitDepth: 8, chromaShiftX: 1, chromaShiftY: 1 },
  pixelFormat: 'yuv420p',
  encoder: 'libx264',
  encoderOptions: { preset: 'superfast', crf: '24', 'x264-params': 'log-level=error:scenecut=0' },
  keyInterval: 24,
  bFrames: 2,
  seed: 38,
  texture: 12,
  spray: 8,
};

/** Frames of it that the card lost, and those of which it lost a part. */
export const lostFrames = { beginning: [40, 41], middle: [75] } as const;

/** The clips of the demo, those that take longest to encode first. */
export const demoClips: readonly DemoClip[] = [
  {
    file: 'marsh-camera/TW_MARSH_0212.mp4',
    label: 'MARSH',
    startTimecode: '05:48:22:00',
    rate: rational(25),
    frames: 100,
    picture: { ...fullHd, bitDepth: 10, chromaShiftX: 1, chromaShiftY: 1 },
    pixelFormat: 'yuv420p10le',
    encoder: 'libx265',
    encoderOptions: {
      preset: 'ultrafast',
      crf: '19',
      // In one thread: several wait for each other all the time where others have the cores.
      'x265-params':
        'log-level=error:keyint=25:min-keyint=25:scenecut=0:open-gop=0:bframes=2:rc-lookahead=5:aq-mode=0:no-cutree=1:min-cu-size=32:merange=16:no-sao=1:rd=1:pools=none:frame-threads=1:no-wpp=1',
    },
    keyInterval: 25,
    bFrames: 2,
    seed: 212,
    texture: 14,
    spray: 10,
    sound: 'aac',
  },
  {
    file: 'wall-camera/TW_WALL_0107.mov',
    label: 'WALL',
    startTimecode: '07:12:40:00',
    rate: rational(24),
    frames: 192,
    picture: { ...fullHd, bitDepth: 10, chromaShiftX: 1, chromaShiftY: 0 },
    pixelFormat: 'yuv422p10le',
    encoder: 'prores_aw',
    encoderOptions: { profile: '2' },
    keyInterval: null,
    bFrames: 0,
    seed: 107,
    texture: 26,
    spray: 6,
    sound: 'pcm',
  },
  {
    file: 'kite-camera/TW_KITE_0031.mp4',
    label: 'KITE',
    startTimecode: '09:30:05:00',
    rate: rational(24),
    frames: 192,
    picture: { ...fullHd, bitDepth: 8, chromaShiftX: 1, chromaShiftY: 1 },
    pixelFormat: 'yuv420p',
    encoder: 'libx264',
    encoderOptions: {
      preset: 'ultrafast',
      crf: '22',
      'x264-params': 'log-level=error:scenecut=0:cabac=1:deblock=0,0',
    },
    keyInterval: 24,
    bFrames: 2,
    seed: 31,
    texture: 16,
    spray: 14,
    sound: 'aac',
  },
  {
    file: 'wall-camera/TW_WALL_0119_UHD.mov',
    label: 'WALL',
    startTimecode: '07:41:18:00',
    rate: rational(30_000, 1_001),
    frames: 90,
    picture: { width: 3840, height: 2160, bitDepth: 10, chromaShiftX: 1, chromaShiftY: 0 },
    pixelFormat: 'yuv422p10le',
    encoder: 'libx264',
    encoderOptions: { preset: 'ultrafast', crf: '22', 'x264-params': 'log-level=error:scenecut=0' },
    keyInterval: 30,
    bFrames: 0,
    seed: 119,
    texture: 10,
    spray: 0,
    sound: 'pcm',
  },
  {
    file: 'proxies/TW_WALL_0107_proxy.mov',
    label: 'WALL PROXY',
    startTimecode: '07:12:40:00',
    rate: rational(24),
    frames: 192,
    picture: { width: 1280, height: 720, bitDepth: 8, chromaShiftX: 1, chromaShiftY: 0 },
    pixelFormat: 'yuvj422p',
    encoder: 'mjpeg',
    encoderOptions: { qmin: '4', qmax: '4' },
    keyInterval: null,
    bFrames: 0,
    seed: 107,
    texture: 12,
    spray: 6,
    sound: 'pcm',
  },
  {
    file: 'stills/TW_CHART_0008.mov',
    label: 'CHART',
    startTimecode: '00:00:00:00',
    rate: rational(24),
    frames: 1,
    picture: { width: 7_360, height: 4_912, bitDepth: 8, chromaShiftX: 1, chromaShiftY: 0 },
    pixelFormat: 'yuvj422p',
    encoder: 'mjpeg',
    encoderOptions: { qmin: '4', qmax: '4' },
    keyInterval: null,
    bFrames: 0,
    seed: 8,
    texture: 6,
    spray: 0,
  },
];
