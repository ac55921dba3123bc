import { rational } from '../time/rational';
import { mediaRefOf, reelOf } from './mediaRef';

const format = {
  codec: 'h264',
  profile: null,
  bitDepth: 8,
  chroma: '4:2:0',
  width: 1920,
  height: 1080,
  rate: rational(25),
  container: 'mov',
} as unknown as NonNullable<Parameters<typeof mediaRefOf>[0]['format']>;

const clip = {
  id: 'c1',
  path: 'wall-camera/TW_WALL_0107.mov',
  format,
  frames: 200,
  startTimecode: '07:41:18:00',
  contentHash: 'h',
};

test('a clip is named by its file, its reel and its place in time', () => {
  expect(mediaRefOf(clip)).toEqual({
    clipId: 'c1',
    name: 'TW_WALL_0107.mov',
    reel: 'WALL0107',
    startTimecode: '07:41:18:00',
    contentHash: 'h',
    rate: rational(25),
    frames: 200,
    width: 1920,
    height: 1080,
  });
  expect(mediaRefOf({ ...clip, format: null })).toBeNull();
  expect(mediaRefOf({ ...clip, frames: null })).toBeNull();
});

test('a reel has eight letters and digits, the last part whole', () => {
  expect(reelOf('wall-camera/TW_WALL_0107.mov')).toBe('WALL0107');
  expect(reelOf('A_long-name of a clip_12345678901.mov')).toBe('12345678');
  expect(reelOf('---')).toBe('AX');
});
