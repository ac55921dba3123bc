import fc from 'fast-check';
import { emptyBlocks } from './blocks';
import { bytesPerFrame, formatDemand, generalFormats } from './cameraFormats';
import { copyLimit, dayTime, savedBy, stageRate, type ShootingDay } from './copyRates';
import type { StorageModel } from './model';
import { Pacer, pacerState, pacerStateBytes } from './pacer';
import { forecastStore, planProblem, type StorePlan } from './planner';
import { nextStreams, rampBounds, rampVerdict, type RampStep } from './ramp';
import { fitOf, headroom, requiredRate, streamsByArithmetic } from './required';
import { writableBytes } from './reserve';
import { standInModel } from './standInChoice';

test('required rate is the peak times streams, speed and margin; by hand', () => {
  const demand = { meanBitsPerSecond: 400e6, peakBitsPerSecond: 480e6 };
  expect(requiredRate(demand, { streams: 3, speed: 2, margin: 0.25 })).toEqual({
    mean: 300e6,
    peak: 360e6,
    required: 450e6,
  });
  expect(requiredRate(demand, { streams: 1, speed: -4, margin: 0 }).required).toBe(240e6); // backwards costs as much
  expect(streamsByArithmetic(118.66e6, demand, { speed: 1, margin: 0 })).toBe(1);
  expect(streamsByArithmetic(120e6, demand, { speed: 1, margin: 0 })).toBe(2);
  expect(headroom(120e6, 60e6)).toBe(1);
  const rate = requiredRate(demand, { streams: 1, speed: 1, margin: 0.25 });
  expect([75e6, 74e6, 59e6].map((foot) => fitOf(foot, rate))).toEqual([
    'plays',
    'without margin',
    'too slow',
  ]);
});

test('a format needs only bytes per frame and a rate', () => {
  expect(bytesPerFrame(500, 50)).toBe(1_250_000);
  expect(formatDemand({ bytesPerFrame: 1_250_000, framesPerSecond: 50, peakOverMean: 1.2 })).toEqual({
    meanBitsPerSecond: 500e6,
    peakBitsPerSecond: 600e6,
  });
  for (const format of generalFormats) expect(format.peakOverMean).toBeGreaterThanOrEqual(1);
});

test('a ramp finds the largest clean number for every limit, within its steps', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 64 }), (carries) => {
      const steps: RampStep[] = [];
      for (let next = nextStreams(steps, 48, 14); next !== null; next = nextStreams(steps, 48, 14))
        steps.push({ streams: next, clean: next <= carries });
      return rampBounds(steps).clean === Math.min(48, carries) && steps.length <= 14;
    }),
  );
  expect(
    nextStreams(
      [
        { streams: 1, clean: true },
        { streams: 2, clean: true },
      ],
      48,
      2,
    ),
  ).toBeNull();
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
  expect(
    rampVerdict(
      paced(100, () => 900_000),
      40_000,
    ),
  ).toEqual({ missed: 0, behind: false });
  expect(
    rampVerdict(
      paced(100, (frame) => 900_000 - frame * 6_000),
      40_000,
    ),
  ).toEqual({ missed: 0, behind: true }); // 15 % short, hidden for 150 frames
  expect(
    rampVerdict(
      paced(100, (frame) => 900_000 - (frame % 7) * 20_000),
      40_000,
    ),
  ).toEqual({ missed: 0, behind: false }); // uneven, not short
  expect(
    rampVerdict(
      paced(100, (frame) => 500_000 - frame * 6_000),
      40_000,
    ),
  ).toEqual({ missed: 16, behind: true });
});

test('a write test keeps its reserve', () => {
  expect(writableBytes({ sizeBytes: 1e12, freeBytes: 50e9 })).toBe(30e9); // a fiftieth of 1 TB stays
  expect(writableBytes({ sizeBytes: 10e9, freeBytes: 3e9 })).toBe(2e9); // at least 1 GB stays
  expect(writableBytes({ sizeBytes: 1e12, freeBytes: 5e9 })).toBe(0);
});

const plan: StorePlan = {
  name: 'Store',
  level: 6,
  drives: 8,
  drive: 'disk',
  driveTerabytes: 18,
  drivePrice: 400,
  chassisPrice: 1_800,
  link: 'ethernet-10',
  mtu: 1_500,
  clients: 4,
  uplinks: 1,
  cacheGigabytes: 32,
  streamsPerClient: 2,
  margin: 0.25,
};
const uhd = {
  name: 'UHD',
  raster: '',
  codecClass: '',
  framesPerSecond: 25,
  bytesPerFrame: bytesPerFrame(800, 25),
  peakOverMean: 1,
};

test('a planned store by hand', () => {
  const forecast = forecastStore(plan, [uhd]);
  expect(forecast.usableBytes).toBe(6 * 18e12);
  expect(forecast.mayFail).toBe(2);
  // Eight streams turn the drives for each MiB: six give 1.048576 / (0.012 + 1.048576 / 250) MB/s each, shared by four; a frame of 4 MB over six is less
  expect(forecast.readBytesPerSecond / 1e6).toBeCloseTo(97.12, 1);
  expect(forecast.limit).toBe('drives');
  expect(forecast.streamsPerClient).toBe(0); // 125 MB/s each with margin
  expect(forecast.enough).toBe(false);
  // From SSDs the link of the store holds: 10 Gb/s x 1448/1538 / 8 = 1 176.9 MB/s shared by four
  const quick = forecastStore({ ...plan, drive: 'ssd' }, [uhd]);
  expect(quick.readBytesPerSecond / 1e6).toBeCloseTo(294.21, 1);
  expect(quick).toMatchObject({ limit: 'server link', streamsPerClient: 2, enough: true });
  expect(forecast.hours).toBeCloseTo((108e12 * 8) / 800e6 / 3_600, 6);
  expect(forecast.price).toBe(5_000);
  expect(forecast.pricePerUsableTerabyte).toBeCloseTo(46.3, 1);
  expect(forecastStore({ ...plan, uplinks: 4 }, [uhd]).limit).toBe('drives');
  expect(forecastStore({ ...plan, clients: 1, link: 'ethernet-1', mtu: 9_000 }, [uhd])).toMatchObject({
    limit: 'link',
    streamsPerClient: 0,
    enough: false,
  });
  expect(forecastStore(plan, [])).toMatchObject({ hours: 0, streamsPerClient: 0 });
});

test('the planner promises the streams that a stand-in of the same layout carries', () => {
  const layouts = fc.constantFrom<Pick<StorePlan, 'level' | 'drives'>>(
    { level: 0, drives: 1 },
    { level: 0, drives: 4 },
    { level: 1, drives: 2 },
    { level: 5, drives: 5 },
    { level: 6, drives: 8 },
    { level: 10, drives: 4 },
  );
  let told = 0;
  fc.assert(
    fc.property(
      layouts,
      fc.constantFrom('disk', 'disk-portable', 'ssd'),
      fc.constantFrom('ethernet-1', 'ethernet-10', 'ethernet-25'),
      fc.integer({ min: 40, max: 900 }),
      (layout, drive, link, megabits) => {
        const frameBytes = bytesPerFrame(megabits, 25);
        const one = { ...plan, ...layout, drive, link, clients: 1, margin: 0, streamsPerClient: 1 };
        // What it promises for frames a tenth larger is carried for these, and for frames a tenth smaller no more is.
        const [surely, most] = [1.1, 0.9].map(
          (factor) => forecastStore(one, [{ ...uhd, bytesPerFrame: frameBytes * factor }]).streamsPerClient,
        ) as [number, number];
        if (most > 40) return;
        told += surely;
        const model = standInModel({
          link,
          drive,
          ...layout,
          cacheGigabytes: 0,
          roundTripMs: null,
          depth: null,
          jitterMs: 0,
          othersMegabytesPerSecond: 0,
          fault: null,
          seed: 1,
        });
        if (surely > 0) expect(carries(model, surely, frameBytes)).toBe(true);
        expect(carries(model, most + 1, frameBytes)).toBe(false);
      },
    ),
    { numRuns: 60 },
  );
  expect(told).toBeGreaterThan(100);
});

/** Whether a stand-in gives streams of frames, 25 a second and read twelve ahead, every frame in time for a minute. */
function carries(model: StorageModel, streams: number, frameBytes: number): boolean {
  const addressBytes = streams * 1_600 * frameBytes;
  const pacer = new Pacer(
    model,
    pacerState(new ArrayBuffer(pacerStateBytes(model.drives, streams, addressBytes)), model.drives, streams),
  );
  const readers = Array.from({ length: streams }, (_, stream) => ({ stream, at: stream * 1_000, frame: 0 }));
  const start = 1e6;
  for (;;) {
    const one = readers.reduce((first, other) => (other.at < first.at ? other : first));
    if (one.frame >= 1_500) return true;
    one.at = pacer.admit(
      {
        stream: one.stream,
        address: one.stream * 1_600 * frameBytes + one.frame * frameBytes,
        bytes: frameBytes,
        write: false,
      },
      one.at,
    );
    if (one.at > start + one.frame * 40_000) return false;
    one.frame++;
    one.at = Math.max(one.at, start + (one.frame - 12) * 40_000);
  }
}

test('plans that cannot be say why', () => {
  expect(planProblem(plan)).toBeNull();
  expect(planProblem({ ...plan, level: 10, drives: 7 })?.message).toContain('even number');
  expect(planProblem({ ...plan, clients: 0 })?.message).toBe('Clients must be 1 or more.');
  expect(planProblem({ ...plan, mtu: 20 })?.message).toContain('576');
  expect(() => forecastStore({ ...plan, driveTerabytes: 0 }, [uhd])).toThrow('A drive needs a size.');
});

const day: ShootingDay = {
  cards: 6,
  cardBytes: 256e9,
  card: 280e6,
  reader: 104e6,
  readers: 1,
  destination: 420e6,
  destinations: 1,
  machine: 2_000e6,
  verify: true,
};

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

test('a card that is left over for one of two readers has the destination for itself; by hand', () => {
  const three: ShootingDay = {
    ...day,
    cards: 3,
    readers: 2,
    reader: 1_000e6,
    card: 1_000e6,
    destination: 200e6,
    verify: false,
  };
  expect(dayTime(three)).toMatchObject({ copySeconds: (3 * 256e9) / 200e6, limit: 'destination' });
  // Two at 100 MB/s each, which the destination gives; then one at 104, which its reader gives.
  expect(dayTime({ ...three, reader: 104e6 }).copySeconds).toBeCloseTo(256e9 / 100e6 + 256e9 / 104e6, 6);
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 12 }),
      fc.integer({ min: 1, max: 6 }),
      fc.integer({ min: 50, max: 2_000 }),
      (cards, readers, megabytes) => {
        const { copySeconds } = dayTime({ ...three, cards, readers, destination: megabytes * 1e6 });
        // Never faster than the destination takes the bytes, nor slower than whole rounds.
        expect(copySeconds).toBeGreaterThanOrEqual((cards * 256e9) / (megabytes * 1e6) - 1e-6);
        const atOnce = Math.min(cards, readers);
        expect(copySeconds).toBeLessThanOrEqual(
          (Math.ceil(cards / atOnce) * 256e9) / Math.min(1_000e6, (megabytes * 1e6) / atOnce) + 1e-6,
        );
      },
    ),
  );
});

test('the stage that worked longest held a copy down', () => {
  const work = {
    read: { bytes: 100, us: 900 },
    hash: { bytes: 100, us: 10 },
    write: { bytes: 200, us: 500 },
    verify: { bytes: 200, us: 5_000 },
  };
  expect(copyLimit(work)).toBe('read');
  expect(stageRate(work.write)).toBe(400_000);
  expect(stageRate({ bytes: 0, us: 0 })).toBeNull();
  expect(
    copyLimit({
      read: { bytes: 0, us: 0 },
      hash: { bytes: 0, us: 0 },
      write: { bytes: 0, us: 0 },
      verify: { bytes: 0, us: 0 },
    }),
  ).toBeNull();
});
