import { rational } from '../time/rational';
import { modelTrace } from './modelTrace';
import { disturbanceOf, networkBesides } from '../rig/disturbance';
import { simulate } from './simulate';
import { defaultBufferDepths } from './slots';
import { summarise } from './summary';
import { intraGraph, uniformWork } from './work';

test('the trace of a simulated run is judged as a measured one: same drops, same services, the late stage named', () => {
  const work = uniformWork(intraGraph(96), rational(24), { read: 100_000, decode: 10_000, process: 5_000 });
  const played = simulate(work);
  const trace = modelTrace(work, played, new Float64Array(96).fill(1e6));
  const { summary } = summarise({
    trace,
    graph: work.graph,
    rate: rational(24),
    policy: 'hold-time',
    buffers: defaultBufferDepths,
    scale: 'full',
    scaleCosts: null,
  });
  expect(summary.dropped).toBe(played.droppedCount);
  expect(summary.dropped).toBeGreaterThan(12);
  expect(summary.serviceMs.decode).toBeCloseTo(10, 3);
  expect(summary.attribution?.agreement).toBeGreaterThan(0.95);
  expect(summary.attribution?.countByCharge[1]).toBe(summary.dropped);
});

test('a run is disturbed by processors, disks or network of others, each named with who did most', () => {
  const quiet = { othersMean: 0.05, othersDiskBytesPerSecond: 1e6, networkBytesPerSecond: 1e3, others: [] };
  expect(disturbanceOf(quiet)).toBeNull();
  expect(disturbanceOf(null)).toBeNull();
  expect(
    disturbanceOf({
      ...quiet,
      othersMean: 0.4,
      others: [
        { name: 'sync', share: 0.2, diskBytesPerSecond: 9e6 },
        { name: 'render', share: 0.6, diskBytesPerSecond: 0 },
      ],
    }),
  ).toBe('other processes took 40\u202f% of all cores, most by render');
  expect(
    disturbanceOf({
      ...quiet,
      othersDiskBytesPerSecond: 90e6,
      others: [{ name: 'sync', share: 0.2, diskBytesPerSecond: 80e6 }],
    }),
  ).toBe('others moved 90\u202fMB/s on disks, most by sync');
  expect(disturbanceOf({ ...quiet, networkBytesPerSecond: 50e6 })).toBe('50\u202fMB/s passed the network');
  expect(disturbanceOf({ othersMean: 0.1, othersDiskBytesPerSecond: null })).toBeNull();
  // By hand: 115 MB/s with 100 MB/s of one's own is all overhead, 200 MB/s leaves 85.
  expect(
    [
      [115e6, 100e6],
      [200e6, 100e6],
      [200e6, 0],
      [null, 0],
      [200e6, null],
    ].map(([all, own]) => {
      const besides = networkBesides(all!, own!);
      return besides && Math.round(besides);
    }),
  ).toEqual([0, 85e6, 200e6, null, null]);
});
