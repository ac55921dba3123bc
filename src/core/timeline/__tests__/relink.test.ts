import { rational } from '@/core/time/rational';
import { flattenSlot } from '../flatten';
import { findMatch, relink, relinkAll, type Candidate } from '../relink';
import { clipItem, mediaRef, timelineOf } from './testTimeline';

const missing = mediaRef({
  clipId: null,
  name: 'TW_WALL_0107',
  reel: 'A001',
  contentHash: null,
  startTimecode: '07:12:41:00',
  frames: 48,
});
const file = (change: Partial<Candidate>): Candidate => ({
  ...mediaRef({ name: 'other.mov', startTimecode: '00:00:00:00', frames: 240, contentHash: null }),
  clipId: 'found',
  ...change,
});

test.each([
  ['content', { contentHash: 'h1' }, { contentHash: 'h1' }],
  ['name and timecode', { name: 'cards/tw_wall_0107.MOV', startTimecode: '07:12:40:00' }, {}],
  ['name', { name: 'TW_WALL_0107.mov', startTimecode: '09:00:00:00' }, {}],
  ['timecode', { startTimecode: '07:12:40:00' }, {}],
] as const)('a missing clip is found by %s', (reason, candidate, ref) => {
  expect(findMatch({ ...missing, ...ref }, [file({}), file(candidate)])?.reason).toBe(reason);
});

test('the surest match wins, and a file that does not hold the range is none', () => {
  const named = file({ clipId: 'named', name: 'TW_WALL_0107.mov' });
  const both = file({ clipId: 'both', name: 'TW_WALL_0107.mov', startTimecode: '07:12:40:00' });
  expect(findMatch(missing, [named, both])?.candidate.clipId).toBe('both');
  expect(findMatch(missing, [file({ startTimecode: '07:12:42:00' })])).toBeNull();
  expect(findMatch(missing, [file({ startTimecode: '07:12:40:00', rate: rational(25) })])).toBeNull();
  expect(findMatch({ ...missing, startTimecode: 'none' }, [file({})])).toBeNull();
});

test('in points move so that the same source time is shown', () => {
  const timeline = { ...timelineOf([clipItem('a', 0, 20, 5)]), media: { m: missing } };
  const linked = relink(timeline, 'm', file({ startTimecode: '07:12:40:00' }));
  expect(flattenSlot(linked, 0).layers[0]?.frame).toBe(24 + 5);
  const { found, missing: left } = relinkAll(
    {
      ...timeline,
      media: { m: missing, n: mediaRef({ clipId: null, name: 'gone', reel: null, contentHash: null }) },
    },
    [file({ name: 'TW_WALL_0107.mov' })],
  );
  expect([...found]).toEqual([['m', 'name']]);
  expect(left).toEqual(['n']);
});
