import fc from 'fast-check';
import {
  arrayFigures,
  layoutProblem,
  rebuildExposure,
  streamsRate,
  type ArrayLevel,
  type Drive,
} from './array';
import { depthLimitedRate, ethernetPayloadShare, lineRate, linkRate } from './link';
import { carriedStreams, expectedRate } from './model';
import { drivePreset, linkPresets, modelOf } from './presets';

const drive: Drive = {
  label: 'test',
  bytes: 4e12,
  readBytesPerSecond: 200e6,
  writeBytesPerSecond: 150e6,
  accessUs: 10_000,
  burst: null,
};

test('payload share of Ethernet with TCP over IPv4, by hand', () => {
  expect(ethernetPayloadShare(1_500)).toBeCloseTo(1_448 / 1_538, 12); // 94.15 %
  expect(ethernetPayloadShare(9_000)).toBeCloseTo(8_948 / 9_038, 12); // 99.00 %
  expect(() => ethernetPayloadShare(52)).toThrow('more than 52 bytes');
  expect(lineRate(linkPresets['ethernet-1']!) / 1e6).toBeCloseTo(117.69, 2);
  expect(lineRate(linkPresets['ethernet-10-jumbo']!) / 1e6).toBeCloseTo(1_237.55, 2);
});

test('a link gives the lower of line and depth x block / round trip', () => {
  const link = {
    label: 'far',
    lineBitsPerSecond: 10e9,
    payloadShare: 1,
    roundTripUs: 2_000,
    depth: 4,
    requestBytes: 2 ** 20,
  };
  expect(depthLimitedRate(link, 65_536)).toBe(4 * 65_536 * 500); // 131 MB/s
  expect(linkRate(link, 65_536)).toBe(131_072_000);
  expect(linkRate(link, 2 ** 20)).toBe(1_250e6); // 2 097 MB/s by depth, but the line is slower
  expect(depthLimitedRate(link, 2 ** 24)).toBe(depthLimitedRate(link, 2 ** 20)); // larger reads are split
  expect(depthLimitedRate({ ...link, roundTripUs: 0 }, 1)).toBe(Infinity);
});

test.each<[ArrayLevel, number, number, number, number, number]>([
  // level, drives, usable drives, read drives of one client, write drives, may fail
  [0, 1, 1, 1, 1, 0],
  [0, 4, 4, 4, 4, 0],
  [1, 2, 1, 1, 1, 1],
  [5, 4, 3, 3, 3, 1],
  [6, 8, 6, 6, 6, 2],
  [10, 6, 3, 3, 3, 1],
])('level %i over %i drives', (level, drives, usable, read, write, mayFail) => {
  expect(arrayFigures({ level, drives }, drive)).toEqual({
    usableBytes: usable * 4e12,
    readBytesPerSecond: read * 200e6,
    writeBytesPerSecond: write * 150e6,
    mayFail,
  });
});

test('streams side by side: each copy serves one without a turn, then drives get to another place for each MiB; by hand', () => {
  const turn = 2 ** 20 / (0.01 + 2 ** 20 / 200e6); // 68.8 MB/s of 200
  const rate = (level: ArrayLevel, drives: number, streams: number) =>
    streamsRate({ level, drives }, drive, false, streams);
  expect([1, 2, 25].map((streams) => rate(5, 5, streams))).toEqual(
    [800e6, 4 * turn, 4 * turn].map((value) => expect.closeTo(value, 0) as number),
  );
  expect([1, 2, 3].map((streams) => rate(1, 2, streams))).toEqual(
    [200e6, 400e6, 1.5 * turn].map((value) => expect.closeTo(value, 0) as number),
  ); // of three, two share a copy
  expect([1, 2, 4].map((streams) => rate(10, 6, streams))).toEqual(
    [600e6, 1_200e6, 6 * turn].map((value) => expect.closeTo(value, 0) as number),
  );
  expect(streamsRate({ level: 0, drives: 2 }, drive, false, 2, 8 * 2 ** 20)).toBeCloseTo(
    (2 * 4 * 2 ** 20) / (0.01 + (4 * 2 ** 20) / 200e6),
    6,
  ); // 4 MiB of each drive in one go
  expect(streamsRate({ level: 1, drives: 2 }, drive, true, 2)).toBeCloseTo(
    2 ** 20 / (0.01 + 2 ** 20 / 150e6),
    6,
  ); // both copies are written
});

test('the streams that a rate carries, where it depends on their number', () => {
  expect(carriedStreams(() => 100, 30)).toBe(3);
  expect(carriedStreams((streams) => (streams <= 2 ? streams * 100 : 60), 50)).toBe(2); // a mirror of disks
  expect(carriedStreams((streams) => (streams <= 1 ? 800 : 280), 30)).toBe(9);
  expect([
    carriedStreams(() => 100, 101),
    carriedStreams(() => 100, 0),
    carriedStreams(() => 5e5, 1),
  ]).toEqual([0, 0, 100_000]);
});

test('layouts that cannot be are refused with the reason', () => {
  expect(layoutProblem({ level: 5, drives: 2 })?.message).toBe('Level 5 needs at least 3 drives.');
  expect(layoutProblem({ level: 10, drives: 5 })?.message).toBe('Level 10 needs an even number of drives.');
  expect(layoutProblem({ level: 0, drives: 1 })).toBeNull();
  expect(() => arrayFigures({ level: 6, drives: 3 }, drive)).toThrow('Level 6 needs at least 4 drives.');
});

test('rebuild exposure by hand', () => {
  // 4 TB at half of 150 MB/s: 53 333 s = 14.81 h; each of 3 others fails with 1-(0.985)^(14.81/8766) = 2.554e-5
  const five = rebuildExposure({ level: 5, drives: 4 }, drive)!;
  expect(five.hours).toBeCloseTo(14.815, 2);
  expect(five.survives).toBe(0);
  expect(five.lossChance).toBeCloseTo(3 * 2.554e-5, 7);
  expect(five.unreadableChance).toBeCloseTo(1 - Math.exp(-0.096), 6); // 3 drives x 4 TB x 8 bits x 1e-15
  const six = rebuildExposure({ level: 6, drives: 8 }, drive)!;
  expect(six.survives).toBe(1);
  expect(six.lossChance).toBeCloseTo(21 * 2.554e-5 ** 2, 9); // two of seven
  expect(six.unreadableChance).toBe(0);
  expect(rebuildExposure({ level: 0, drives: 4 }, drive)).toBeNull();
});

test('the expected rate names the part that sets it', () => {
  expect(expectedRate(modelOf('ethernet-1', 'disk', { level: 6, drives: 8 }), false, 2 ** 20)).toMatchObject({
    limit: 'link',
  });
  expect(expectedRate(modelOf('ethernet-25', 'disk', { level: 1, drives: 2 }), true, 2 ** 20)).toEqual({
    limit: 'drives',
    bytesPerSecond: 245e6,
  });
  expect(expectedRate(modelOf('ethernet-10', 'nvme'), false, 4_096)).toEqual({
    limit: 'requests under way',
    bytesPerSecond: 8 * 4_096 * 4_000,
  });
  const shared = expectedRate(
    modelOf('ethernet-1', 'nvme', undefined, { othersBytesPerSecond: 50e6 }),
    false,
    2 ** 20,
  );
  expect(shared.limit).toBe('other clients');
  expect(shared.bytesPerSecond / 1e6).toBeCloseTo(67.69, 2);
  const burst = modelOf('usb-10', 'ssd-burst');
  expect(expectedRate(burst, true, 2 ** 20).bytesPerSecond).toBe(
    drivePreset('ssd-burst').writeBytesPerSecond,
  );
  expect(expectedRate(burst, true, 2 ** 20, false).bytesPerSecond).toBe(950e6);
});

test('a better part never makes a model slower', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...Object.keys(linkPresets)),
      fc.integer({ min: 1, max: 12 }),
      fc.integer({ min: 12, max: 24 }),
      fc.boolean(),
      (link, drives, power, write) => {
        const model = modelOf(link, 'disk', { level: 0, drives });
        const rate = (change: Partial<typeof model>, block = 2 ** power) =>
          expectedRate({ ...model, ...change }, write, block).bytesPerSecond;
        return (
          rate({ drives: drives + 1 }) >= rate({}) &&
          rate({}, 2 ** (power + 1)) >= rate({}) &&
          rate({ link: { ...model.link, lineBitsPerSecond: model.link.lineBitsPerSecond * 2 } }) >= rate({})
        );
      },
    ),
  );
});
