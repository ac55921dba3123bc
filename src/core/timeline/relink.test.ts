import { rational } from '@/core/time/rational';
import { flattenSlot } from './flatten';
import { Candidates, relink, relinkAll, type Candidate } from './relink';
import type { MediaRef } from './model';
import { clipItem, mediaRef, timelineOf } from './testing/testTimeline';

const missing = mediaRef({
  clipId: null,
  name: 'TW_WALL_0107',
  reel: 'A001',
  contentHash: null,
  startTimecode: '07:12:41:00',
  frames: 48,
});
const findMatches = (ref: MediaRef, files: readonly Candidate[]) => new Candidates(files).matchesOf(ref);
const file = (change: Partial<Candidate>): Candidate => ({
  ...mediaRef({ name: 'other.mov', startTimecode: '00:00:00:00', frames: 240, contentHash: null }),
  clipId: 'found',
  volumeId: 'shuttle',
  ...change,
});

test.each([
  ['content', { contentHash: 'h1' }, { contentHash: 'h1' }],
  ['name and timecode', { name: 'cards/tw_wall_0107.MOV', startTimecode: '07:12:40:00' }, {}],
  ['name', { name: 'TW_WALL_0107.mov', startTimecode: '09:00:00:00' }, {}],
  ['timecode', { startTimecode: '07:12:40:00' }, {}],
] as const)('a missing clip is found by %s', (reason, candidate, ref) => {
  expect(findMatches({ ...missing, ...ref }, [file({}), file(candidate)])?.reason).toBe(reason);
});

test('the surest match wins, and a file that does not hold the range is none', () => {
  const named = file({ clipId: 'named', name: 'TW_WALL_0107.mov' });
  const both = file({ clipId: 'both', name: 'TW_WALL_0107.mov', startTimecode: '07:12:40:00' });
  expect(findMatches(missing, [named, both])?.candidates).toEqual([both]);
  expect(findMatches(missing, [both, named])?.candidates).toEqual([both]);
  expect(findMatches(missing, [file({ startTimecode: '07:12:42:00' })])).toBeNull();
  expect(findMatches(missing, [file({ startTimecode: '07:12:40:00', rate: rational(25) })])).toBeNull();
  expect(findMatches({ ...missing, startTimecode: 'none' }, [file({})])).toBeNull();
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
  expect([...found].map(([id, { reason }]) => [id, reason])).toEqual([['m', 'name']]);
  expect(left).toEqual(['n']);
});

test.each([
  // An edit list at 25 counts a source of 50 frames a second in its own labels: 10:00:05:10 is 5 s and 20 of 50.
  ['of twice the rate', rational(25), '10:00:05:10', rational(50), '10:00:00:00', 270],
  // 24 and 24000/1001 have the same labels, and drift from each other by the clock.
  ['at 1000/1001', rational(24), '10:00:05:10', rational(24_000, 1001), '09:59:55:00', 250],
  // 00:01:00;02 is the 1800th frame of drop-frame timecode; without it the label is the 1802nd.
  ['counted drop-frame', rational(30_000, 1001), '00:01:00:02', rational(30_000, 1001), '00:00:59;00', 30],
  ['without timecode of its own', rational(24), '00:00:02:00', rational(24), null, 48],
] as const)('a file %s shows the frame with the same label', (_, rate, label, fileRate, start, frame) => {
  const timeline = timelineOf([clipItem('a', 0, 20)], rate, { ...missing, rate, startTimecode: label });
  const linked = relink(timeline, 'm', file({ rate: fileRate, startTimecode: start, frames: 400 }));
  expect(flattenSlot(linked, 0).layers[0]?.frame).toBe(frame);
});

test('a copy that lost its timecode keeps the frames that were shown', () => {
  const timeline = timelineOf([clipItem('a', 0, 20, 5)], rational(24), { startTimecode: '10:00:00:00' });
  const linked = relink(timeline, 'm', file({ startTimecode: null }));
  expect(flattenSlot(linked, 0).layers[0]?.frame).toBe(5);
});

test.each([
  ['that holds another medium already', true],
  ['that may hold another medium too', false],
])('of equal copies that on the volume is taken %s', (_, isLinked) => {
  const copy = (name: string, volumeId: string) =>
    file({ name, volumeId, clipId: `${name} on ${volumeId}`, contentHash: name });
  const candidates = [copy('wall', 'archive'), copy('wall', 'shuttle'), copy('quay', 'shuttle')];
  const lost = (name: string) => mediaRef({ clipId: null, name, reel: null, contentHash: null });
  const linked = { ...lost('quay'), clipId: 'quay on shuttle' };
  const timeline = {
    ...timelineOf([]),
    media: { wall: lost('wall'), quay: isLinked ? linked : lost('quay') },
  };
  const { media } = relinkAll(timeline, candidates).timeline;
  expect(media.wall).toEqual({ ...lost('wall'), ...mediaOf(copy('wall', 'shuttle')) });
  expect(media.quay?.clipId).toBe('quay on shuttle');
});

test('of equal copies on equal volumes the first given is taken', () => {
  const copies = ['archive', 'shuttle'].map((volumeId) =>
    file({ name: 'TW_WALL_0107.mov', volumeId, clipId: volumeId, contentHash: 'wall' }),
  );
  const timeline = { ...timelineOf([]), media: { m: missing } };
  expect(relinkAll(timeline, copies).timeline.media.m?.clipId).toBe('archive');
});

const mediaOf = ({ volumeId: _, ...ref }: Candidate) => ref;

test('files of different content that match equally well are a choice, and none is taken', () => {
  const [first, second] = ['day-1', 'day-2'].map((volumeId) =>
    file({ name: 'TW_WALL_0107.mov', volumeId, clipId: volumeId, contentHash: volumeId }),
  ) as [Candidate, Candidate];
  const timeline = { ...timelineOf([clipItem('a', 0, 20, 5)]), media: { m: missing } };
  const { timeline: linked, found, choices, missing: none } = relinkAll(timeline, [first, second]);
  expect(linked).toEqual(timeline);
  expect([found.size, none]).toEqual([0, []]);
  expect([...choices]).toEqual([['m', { candidates: [first, second], reason: 'name' }]]);
  const taken = relinkAll(timeline, [first, second], new Map([['m', 'day-2']]));
  expect([taken.found.get('m')?.file.clipId, taken.choices.size]).toEqual(['day-2', 0]);
  // What is surer decides: the timecode that one of them has.
  const sure = { ...second, startTimecode: '07:12:40:00' };
  expect(relinkAll(timeline, [first, sure]).found.get('m')).toEqual({
    reason: 'name and timecode',
    file: sure,
  });
});

test('what others keep with a medium stays with it', () => {
  const timeline = { ...timelineOf([]), media: { m: { ...missing, other: '{"metadata":{"bin":3}}' } } };
  const { timeline: linked } = relinkAll(timeline, [file({ name: 'TW_WALL_0107.mov' })]);
  expect(linked.media.m).toMatchObject({ clipId: 'found', reel: 'A001', other: '{"metadata":{"bin":3}}' });
});

test('thousands of media are found among thousands of files', () => {
  const files = Array.from({ length: 5_000 }, (_, at) =>
    file({ name: `TW_${at}.mov`, clipId: `c${at}`, contentHash: `h${at}` }),
  );
  const media = Object.fromEntries(
    Array.from({ length: 5_000 }, (_, at) => [`m${at}`, { ...missing, name: `TW_${at}`, contentHash: null }]),
  );
  const items = Object.keys(media).map((id, at) => clipItem(`i${at}`, at * 10, 10, 0, { media: id }));
  const { found, choices, missing: none } = relinkAll({ ...timelineOf(items), media }, files);
  expect([found.size, choices.size, none.length]).toEqual([5_000, 0, 0]);
  expect(found.get('m4999')?.file.clipId).toBe('c4999');
});
