import fc from 'fast-check';
import { emptyBlocks } from '../blocks';
import { bytesPerFrame, formatDemand, generalFormats } from '../cameraFormats';
import { copyLimit, dayTime, savedBy, stageRate, type ShootingDay } from '../copyRates';
import { forecastStore, planProblem, type StorePlan } from '../planner';
import { nextStreams, rampBounds, rampVerdict, type RampStep } from '../ramp';
import { fitOf, headroom, requiredRate, streamsByArithmetic } from '../required';
import { writableBytes } from '../reserve';

test('required rate is the peak times streams, speed and margin; by hand', () => {
  const demand = { meanBitsPerSecond: 400e6, peakBitsPerSecond: 480e6 };
  expect(requiredRate(demand, { streams: 3, speed: 2, margin: 0.25 })).toEqual({ mean: 300e6, peak: 360e6, required: 450e6 });
  expect(requiredRate(demand, { streams: 1, speed: -4, margin: 0 }).required).toBe(240e6); // backwards costs as much
  expect(streamsByArithmetic(118.66e6, demand, { speed: 1, margin: 0 })).toBe(1);
  expect(streamsByArithmetic(120e6, demand, { speed: 1, margin: 0 })).toBe(2);
  expect(headroom(120e6, 60e6)).toBe(1);
  const rate = requiredRate(demand, { streams: 1, speed: 1, margin: 0.25 });
  expect([75e6, 74e6, 59e6].map((foot) => fitOf(foot, rate))).toEqual(['plays', 'without margin', 'too slow']);
});

test('a format needs only bytes per frame and a rate', () => {
  expect(bytesPerFrame(500, 50)).toBe(1_250_000);
  expect(formatDemand({ bytesPerFrame: 1_250_000, framesPerSecond: 50, peakOverMean: 1.2 })).toEqual({ meanBitsPerSecond: 500e6, peakBitsPerSecond: 600e6 });
  for (const format of generalFormats) expect(format.peakOverMean).toBeGreaterThanOrEqual(1);
});

test('a ramp finds the largest clean number for every limit, within its steps', () => {
  fc.assert(fc.property(fc.integer({ min: 0, max: 64 }), (carries) => {
    const steps: RampStep[] = [];
    for (let next = nextStreams(steps, 48, 14); next !== null; next = nextStreams(steps, 48, 14)) steps.push({ streams: next, clean: next <= carries });
    return rampBounds(steps).clean === Math.min(48, carries) && steps.length <= 14;
  }));
  expect(nextStreams([{ streams: 1, clean: true }, { streams: 2, clean: true }], 48, 2)).toBeNull();
});

/** Frames due every 40 ms, each done `spare(frame)` µs before its due time. */
function paced(frames: number, spare: (frame: number) => number) {
  const blocks = emptyBlocks(frames);
  for (let frame = 0; frame < frames; frame++) {
    blocks.dueUs[frame] = 1e6 + frame * 40_000;
    blocks.endUs[frame] = blocks.dueUs[frame]! - spare(frame);
  }
  return blocks;
}

test('streams that live on their read-ahead are told from those that keep up', () => {
  expect(rampVerdict(paced(100, () => 900_000), 40_000)).toEqual({ missed: 0, behind: false });
  expect(rampVerdict(paced(100, (frame) => 900_000 - frame * 6_000), 40_000)).toEqual({ missed: 0, behind: true }); // 15 % short, hidden for 150 frames
  expect(rampVerdict(paced(100, (frame) => 900_000 - (frame % 7) * 20_000), 40_000)).toEqual({ missed: 0, behind: false }); // uneven, not short
  expect(rampVerdict(paced(100, (frame) => 500_000 - frame * 6_000), 40_000)).toEqual({ missed: 16, behind: true });
});

test('a write test keeps its reserve', () => {
  expect(writableBytes({ sizeBytes: 1e12, freeBytes: 50e9 })).toBe(30e9); // a fiftieth of 1 TB stays
  expect(writableBytes({ sizeBytes: 10e9, freeBytes: 3e9 })).toBe(2e9); // at least 1 GB stays
  expect(writableBytes({ sizeBytes: 1e12, freeBytes: 5e9 })).toBe(0);
});

const plan: StorePlan = {
  name: 'Store', level: 6, drives: 8, drive: 'disk', driveTerabytes: 18, drivePrice: 400, chassisPrice: 1_800, link: 'ethernet-10', mtu: 1_500,
  clients: 4, uplinks: 1, cacheGigabytes: 32, streamsPerClient: 2, margin: 0.25,
};
const uhd = { name: 'UHD', raster: '', codecClass: '', framesPerSecond: 25, bytesPerFrame: bytesPerFrame(800, 25), peakOverMean: 1 };

test('a planned store by hand', () => {
  const forecast = forecastStore(plan, [uhd]);
  expect(forecast.usableBytes).toBe(6 * 18e12);
  expect(forecast.mayFail).toBe(2);
  // 10 Gb/s x 1460/1538 / 8 = 1 186.6 MB/s shared by four: 296.6 MB/s each; the drives would give 375 each
  expect(forecast.readBytesPerSecond / 1e6).toBeCloseTo(296.65, 1);
  expect(forecast.limit).toBe('server link');
  expect(forecast.streamsPerClient).toBe(2); // 125 MB/s each with margin
  expect(forecast.enough).toBe(true);
  expect(forecast.hours).toBeCloseTo((108e12 * 8) / 800e6 / 3_600, 6);
  expect(forecast.price).toBe(5_000);
  expect(forecast.pricePerUsableTerabyte).toBeCloseTo(46.3, 1);
  expect(forecastStore({ ...plan, uplinks: 4 }, [uhd]).limit).toBe('drives');
  expect(forecastStore({ ...plan, clients: 1, link: 'ethernet-1', mtu: 9_000 }, [uhd])).toMatchObject({ limit: 'link', streamsPerClient: 0, enough: false });
  expect(forecastStore(plan, [])).toMatchObject({ hours: 0, streamsPerClient: 0 });
});

test('plans that cannot be say why', () => {
  expect(planProblem(plan)).toBeNull();
  expect(planProblem({ ...plan, level: 10, drives: 7 })).toContain('even number');
  expect(planProblem({ ...plan, clients: 0 })).toBe('Clients must be 1 or more.');
  expect(planProblem({ ...plan, mtu: 20 })).toContain('576');
  expect(() => forecastStore({ ...plan, driveTerabytes: 0 }, [uhd])).toThrow('A drive needs a size.');
});

const day: ShootingDay = { cards: 6, cardBytes: 256e9, card: 280e6, reader: 104e6, readers: 1, destination: 420e6, destinations: 1, machine: 2_000e6, verify: true };

test('a shooting day by hand: the reader, not the machine, costs the hours', () => {
  const time = dayTime(day);
  expect(time.limit).toBe('reader');
  expect(time.copySeconds).toBeCloseTo(6 * (256_000 / 104), 6);
  expect(time.verifySeconds).toBeCloseTo(6 * (256_000 / 420), 6);
  expect(savedBy(day, 'machine', 2)).toBe(0);
  expect(savedBy(day, 'reader', 3)).toBeCloseTo(6 * (256_000 / 104 - 256_000 / 280), 6); // then the card holds it down
  expect(dayTime({ ...day, readers: 3, reader: 312e6 })).toMatchObject({ limit: 'destination' }); // 140 MB/s for each of three
  expect(dayTime({ ...day, verify: false }).seconds).toBe(time.copySeconds);
});

test('the stage that worked longest held a copy down', () => {
  const work = { read: { bytes: 100, us: 900 }, hash: { bytes: 100, us: 10 }, write: { bytes: 200, us: 500 }, verify: { bytes: 200, us: 5_000 } };
  expect(copyLimit(work)).toBe('read');
  expect(stageRate(work.write)).toBe(400_000);
  expect(stageRate({ bytes: 0, us: 0 })).toBeNull();
  expect(copyLimit({ read: { bytes: 0, us: 0 }, hash: { bytes: 0, us: 0 }, write: { bytes: 0, us: 0 }, verify: { bytes: 0, us: 0 } })).toBeNull();
});
