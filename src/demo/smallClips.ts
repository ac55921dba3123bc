import { rational } from '@/core/time/rational';
import type { DemoClip } from './clips';

/** Small, quick clips of the same scene for tests: light enough that any machine plays them with headroom. */
const picture = { width: 480, height: 270, bitDepth: 8, chromaShiftX: 1, chromaShiftY: 1 } as const;

export const smallIntra: DemoClip = {
  file: 'small/TW_TEST_0001.mov',
  label: 'WALL',
  startTimecode: '01:00:00:00',
  rate: rational(24),
  frames: 240,
  picture: { ...picture, chromaShiftY: 0 },
  pixelFormat: 'yuvj422p',
  encoder: 'mjpeg',
  encoderOptions: { qmin: '4', qmax: '4' },
  keyInterval: null,
  bFrames: 0,
  seed: 1,
  texture: 10,
  spray: 4,
};

export const smallLongGop: DemoClip = {
  file: 'small/TW_TEST_0002.mp4',
  label: 'KITE',
  startTimecode: '02:00:00:00',
  rate: rational(25),
  frames: 120,
  picture,
  pixelFormat: 'yuv420p',
  encoder: 'libx264',
  encoderOptions: {
    preset: 'ultrafast',
    crf: '26',
    'x264-params': 'log-level=error:scenecut=0:bframes=2:b-adapt=0',
  },
  keyInterval: 24,
  bFrames: 2,
  seed: 2,
  texture: 10,
  spray: 4,
};

export const smallTenBit: DemoClip = {
  file: 'small/TW_TEST_0003.mov',
  label: 'WALL',
  startTimecode: '03:00:00:00',
  rate: rational(24),
  frames: 48,
  picture: { ...picture, bitDepth: 10, chromaShiftY: 0 },
  pixelFormat: 'yuv422p10le',
  encoder: 'prores_aw',
  encoderOptions: { profile: '2' },
  keyInterval: null,
  bFrames: 0,
  seed: 3,
  texture: 10,
  spray: 4,
};
