import { damagedStream } from '../testing/damagedStreams';

test(
  'damages of card.m2ts, 500 in number: each ends with words or with frames',
  () =>
    damagedStream('card.m2ts', 500, {
      encoder: 'libx264',
      pixelFormat: 'yuv420p',
      width: 96,
      height: 64,
      bFrames: 2,
      frames: 18,
      audio: true,
      options: { preset: 'ultrafast' },
    }),
  300_000,
);

test(
  'damages of tape.ts, 500 in number: each ends with words or with frames',
  () =>
    damagedStream('tape.ts', 500, {
      encoder: 'mpeg2video',
      pixelFormat: 'yuv420p',
      width: 96,
      height: 64,
      gop: 6,
      bFrames: 1,
      frames: 18,
    }),
  300_000,
);
