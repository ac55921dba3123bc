import type { InferType } from '../edge/strict';
import { emptyTimeline, wholePicture, type Item, type Timeline } from './model';
import { timelineFrom, timelineSchema } from './schema';
import { rational } from '../time/rational';

type Same<One, Other> =
  (<T>() => T extends One ? 1 : 2) extends <T>() => T extends Other ? 1 : 2 ? true : false;
type Frozen<Value> = Value extends object ? { readonly [Key in keyof Value]: Frozen<Value[Key]> } : Value;
/** The interface carries the words, the schema the bounds: where they differ, this does not compile. */
const alike: Same<Frozen<InferType<typeof timelineSchema>>, Frozen<Timeline>> = true;

const media = {
  clipId: null,
  name: 'TW_WALL_0107.mov',
  reel: null,
  startTimecode: null,
  contentHash: null,
  rate: rational(24),
  frames: 100,
  width: 1920,
  height: 1080,
};
const item = (change: object = {}): Item => ({
  id: 'a',
  name: 'a',
  start: 0,
  length: 10,
  source: { kind: 'clip', media: 'file:///b/TW WALL.mov', in: 0, speed: rational(1) },
  effects: [
    { id: 'e', on: true, kind: 'saturation', amount: 1 },
    { id: 'f', on: true, kind: 'white-balance', gains: [1, 1, 1] },
    { id: 'g', on: true, kind: 'transform', crop: wholePicture, place: wholePicture, opacity: 1 },
  ],
  ...change,
});
const timeline = (change: object = {}, items: readonly object[] = [item()]) => ({
  ...emptyTimeline('Reel one', rational(24), 1920, 1080),
  tracks: [{ id: 'v1', name: 'V1', on: true, items }],
  media: { 'file:///b/TW WALL.mov': media },
  ...change,
});

test('a timeline comes through as it is, without what does not belong there', () => {
  expect(alike).toBe(true);
  expect(timelineFrom(timeline())).toEqual(timeline());
  expect(timelineFrom({ ...timeline(), more: 1 })).toEqual(timeline());
});

test.each<[string, unknown, string]>([
  ['no object', 'x', 'must be an object'],
  ['tracks alone', { tracks: [] }, 'is missing'],
  ['a track that is a number', timeline({ tracks: [5] }), 'tracks[0]'],
  ['items that are none', timeline({}, [{}]), 'tracks[0].items[0]'],
  ['a source that is none', timeline({}, [item({ source: { kind: 'tape' } })]), 'clip, still, angles, title'],
  ['no source', timeline({}, [item({ source: null })]), 'source'],
  ['a medium that is not there', timeline({ media: {} }), 'is not in the timeline'],
  [
    'a medium of the prototype',
    timeline({}, [item({ source: { kind: 'clip', media: 'toString', in: 0, speed: rational(1) } })]),
    'is not in the timeline',
  ],
  ['2 to the 31 slots', timeline({}, [item({ length: 2 ** 31 })]), 'length'],
  ['an end beyond a day', timeline({}, [item({ start: 10_000_000, length: 1_000_000 })]), 'longest timeline'],
  [
    'a speed over nothing',
    timeline({}, [item({ source: { ...item().source, speed: { num: 1, den: 0 } } })]),
    'den',
  ],
  [
    'an effect that is none',
    timeline({}, [item({ effects: [{ id: 'e', on: true, kind: 'magic' }] })]),
    'effects[0]',
  ],
  [
    'two gains',
    timeline({}, [item({ effects: [{ id: 'e', on: true, kind: 'white-balance', gains: [1, 1] }] })]),
    'gains',
  ],
  ['a timecode of words', timeline({ startTimecode: 'noon' }), 'timecode'],
  ['a timecode that its rate does not count', timeline({ startTimecode: '01:00:00;00' }), 'Drop-frame'],
  ['a rate of nothing', timeline({ rate: { num: 0, den: 1 } }), 'rate'],
  ['a rate of a million', timeline({ rate: { num: 1_000_000, den: 1 } }), '1000 frames per second'],
  ['a medium without frames', timeline({ media: { x: { ...media, frames: 0 } } }), 'frames'],
])('%s is refused with its place', (_, document, say) => {
  expect(() => timelineFrom(document)).toThrow(say);
});
