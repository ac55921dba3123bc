import { footageName, groupFootage, roleOf, sameFootage, type FootageClip } from './footage';

const pictures = (seed: number) => Uint8Array.from({ length: 96 }, (_, at) => (at * seed * 37 + seed) & 255);

const clip = (id: string, change: Partial<FootageClip> = {}): FootageClip => ({
  id,
  path: `wall/${id}.mov`,
  contentHash: id,
  startTimecode: '07:00:00:00',
  frames: 192,
  rate: { num: 24, den: 1 },
  pixels: 1920 * 1080,
  bitDepth: 10,
  meanBitsPerSecond: 180e6,
  fingerprint: pictures(1),
  fixedFootage: null,
  alone: false,
  ...change,
});

test.each([
  ['wall/TW_WALL_0107.mov', 'TW_WALL_0107'],
  ['TW_WALL_0107_proxy.mov', 'TW_WALL_0107'],
  ['TW_WALL_0119_UHD.mov', 'TW_WALL_0119'],
  ['TW_WALL_0107_proresproxy_half.mov', 'TW_WALL_0107'],
  ['A001_0007.mxf', 'A001_0007'],
  ['interview 1080p.mp4', 'interview'],
])('the footage of %s is called %s', (path, name) => {
  expect(footageName(path)).toBe(name);
});

test('two witnesses beside the duration make footage; foreign pictures never do', () => {
  const original = clip('TW_WALL_0107');
  const proxy = clip('TW_WALL_0107_proxy', { pixels: 1280 * 720 });
  expect(sameFootage(original, proxy)).toEqual(['duration', 'name', 'timecode', 'pictures']);
  expect(sameFootage(original, clip('renamed', { startTimecode: null }))).toBeNull(); // like pictures alone are too little
  expect(sameFootage(original, clip('renamed'))).toEqual(['duration', 'timecode', 'pictures']);
  expect(
    sameFootage(original, { ...proxy, fingerprint: pictures(3).map((value) => value ^ 255) }),
  ).toBeNull();
  expect(sameFootage(original, { ...proxy, frames: 190 })).toBeNull();
  expect(sameFootage(original, { ...proxy, rate: { num: 25, den: 1 } })).toBeNull();
  expect(sameFootage(original, clip('elsewhere', { contentHash: 'TW_WALL_0107', frames: null }))).toEqual([
    'same content',
  ]);
});

test('groups gather originals, renditions and copies, the original first', () => {
  const groups = groupFootage([
    clip('TW_WALL_0107_proxy', { pixels: 1280 * 720 }),
    clip('TW_WALL_0107'),
    clip('copy', { contentHash: 'TW_WALL_0107', path: 'b/TW_WALL_0107.mov' }),
    clip('TW_MARSH_1', {
      startTimecode: '05:00:00:00',
      fingerprint: pictures(9).map((value) => value ^ 170),
    }),
  ]);
  expect(groups.map(({ clips }) => clips)).toEqual([
    ['copy', 'TW_WALL_0107', 'TW_WALL_0107_proxy'],
    ['TW_MARSH_1'],
  ]);
  expect(groups[0]!.name).toBe('TW_WALL_0107');
  const ordered = [clip('a'), clip('b', { contentHash: 'a' }), clip('c')];
  expect(ordered.map((member) => roleOf(member, ordered))).toEqual(['original', 'copy', 'rendition']);
});

test('what was done by hand stays: groups hold, and what was taken out is left alone', () => {
  const byHand = groupFootage([
    clip('x', { fixedFootage: 'f1', frames: 10 }),
    clip('y', { fixedFootage: 'f1' }),
    clip('y_proxy'),
  ]);
  expect(byHand).toEqual([
    expect.objectContaining({
      fixed: 'f1',
      clips: expect.arrayContaining(['x', 'y', 'y_proxy']) as string[],
    }),
  ]);
  expect(groupFootage([clip('y'), clip('y_proxy', { alone: true })])).toHaveLength(2);
  expect(
    groupFootage([clip('y', { fixedFootage: 'f1' }), clip('y_proxy', { fixedFootage: 'f2' })]),
  ).toHaveLength(2);
});

test('five thousand clips are grouped in a moment', () => {
  const clips = Array.from({ length: 5_000 }, (_, index) =>
    clip(`TW_${index >> 1}${index % 2 ? '_proxy' : ''}`, {
      startTimecode: `0${index % 9}:00:${String((index >> 1) % 60).padStart(2, '0')}:00`,
      frames: 100 + (index >> 1),
      fingerprint: null,
    }),
  );
  expect(groupFootage(clips)).toHaveLength(5_000); // a timecode that differs and no pictures: too little to join
  expect(
    groupFootage(
      clips.map((one, index) => ({ ...one, startTimecode: '01:00:00:00', frames: 100 + 2 * (index >> 1) })),
    ),
  ).toHaveLength(2_500);
});
