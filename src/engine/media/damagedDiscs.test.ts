import { damagedStream } from '../testing/damagedStreams';

test(
  'damages of disc.vob, 1000 in number: each ends with words or with frames',
  () =>
    damagedStream('disc.vob', 1_000, {
      encoder: 'mpeg2video',
      pixelFormat: 'yuv420p',
      width: 96,
      height: 64,
      gop: 6,
      bFrames: 2,
      frames: 18,
    }),
  300_000,
);
