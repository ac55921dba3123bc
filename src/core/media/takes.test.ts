import { rational } from '../time/rational';
import { packetTableFrom } from './packetTable';
import { findTakes, joinedPackets, neighbours, takePath, type TakePart } from './takes';

const format = {
  container: 'MPEG-TS',
  codec: 'H.264',
  profile: 'High',
  bitDepth: 8,
  chroma: '4:2:0',
  width: 1920,
  height: 1080,
  rate: rational(25),
};
const part = (path: string, change: Partial<TakePart> = {}): TakePart => ({
  path,
  sizeBytes: 1e9,
  format,
  frames: 100,
  startTimecode: null,
  coded: 'a',
  clock: null,
  ...change,
});
const clock = (first: number, frames = 100) => ({ first, end: first + frames * 3_600 });

test('files whose clock runs on are one take, over a turn of the counter too', () => {
  const turn = 2 ** 33;
  const parts = [
    part('A/00002.MTS', { clock: clock(360_000) }),
    part('A/00001.MTS', { clock: clock(0) }),
    part('A/00003.MTS', { clock: clock(720_000) }),
    part('A/00004.MTS', { clock: clock(0) }),
    part('B/00004.MTS', { clock: clock(1_080_000) }),
    part('C/00001.MTS', { clock: clock(turn - 360_000) }),
    part('C/00002.MTS', { clock: clock(0) }),
  ];
  expect(findTakes(parts)).toEqual({
    takes: [
      { parts: [1, 0, 2], proof: 'clock' },
      { parts: [5, 6], proof: 'clock' },
    ],
    doubtful: [],
  });
});

test('a timecode that runs on is proof only behind a file as large as a card lets it become', () => {
  const full = 2 ** 32 - 5e6;
  const takes = (sizeBytes: number, second: Partial<TakePart>) =>
    findTakes([
      part('X010007.MP4', { sizeBytes, startTimecode: '10:00:00:00' }),
      part('X020007.MP4', { startTimecode: '10:00:04:00', ...second }),
      part('X010008.MP4', { startTimecode: '10:00:04:00', coded: 'other' }),
    ]);
  expect(takes(full, {})).toEqual({ takes: [{ parts: [0, 1], proof: 'timecode' }], doubtful: [] });
  expect(takes(1e9, {})).toEqual({ takes: [], doubtful: [] });
  expect(takes(full, { startTimecode: '10:00:04:01' })).toEqual({ takes: [], doubtful: [[0, 1]] });
  expect(takes(full, { startTimecode: null })).toEqual({ takes: [], doubtful: [[0, 1]] });
  expect(takes(full, { coded: 'other' })).toEqual({ takes: [], doubtful: [] });
  expect(takes(full, { format: { ...format, rate: rational(50) } })).toEqual({ takes: [], doubtful: [] });
});

test('where two files could follow, neither is taken', () => {
  const full = 2 ** 32 - 1;
  const found = findTakes([
    part('X010007.MP4', { sizeBytes: full, startTimecode: '10:00:00:00' }),
    part('X020007.MP4', { startTimecode: '10:00:04:00' }),
    part('X010008.MP4', { startTimecode: '10:00:04:00' }),
  ]);
  expect(found.takes).toEqual([]);
  expect(found.doubtful).toHaveLength(1);
});

test('joined packets lie end to end, in bytes and in time', () => {
  const table = (first: number) =>
    packetTableFrom(
      [0, 3, 1, 2].map((shown, at) => ({
        offset: 10 + at * 100,
        size: 90,
        pts: first + shown * 3_600,
        dts: first + (at - 1) * 3_600,
        key: at === 0,
        disposable: false,
        type: at === 0 ? 'I' : 'P',
      })),
    );
  const joined = joinedPackets([table(5_000), table(9_000)], [500, 450], 3_600);
  expect([...joined.offset]).toEqual([10, 110, 210, 310, 510, 610, 710, 810]);
  expect([...joined.slot]).toEqual([0, 3, 1, 2, 4, 7, 5, 6]);
  expect([...joined.pts].sort((a, b) => a - b).map((time) => (time - 5_000) / 3_600)).toEqual([
    0, 1, 2, 3, 4, 5, 6, 7,
  ]);
  expect(joined.inside).toBeUndefined();
  expect(takePath(['DCIM/1/00001.MTS', 'DCIM/1/00002.MTS'])).toBe('DCIM/1/00001.MTS to 00002.MTS');
});

test('only clips whose names follow each other in one folder need a look at their clocks', () => {
  expect([...neighbours(['a/1.ts', 'a/2.ts', 'b/3.ts', 'a/7.ts', 'X010007.MP4', 'X020007.MP4'])]).toEqual([
    0, 1, 4, 5,
  ]);
});
