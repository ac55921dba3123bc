import { HostLateness } from './hostLate';
import { emptyBlocks } from './blocks';
import { expectedRate } from './model';
import { drivePresets, linkPreset, linkPresets, modelOf } from './presets';
import { faultLabel, modelLabel, standInModel, standInProblem, type StandInChoice } from './standInChoice';
import { summariseStreams } from './streams';
import { streamsSentence } from '../sentences/storage';

const choice: StandInChoice = {
  link: 'ethernet-10',
  drive: 'disk',
  level: 6,
  drives: 8,
  cacheGigabytes: 2,
  roundTripMs: null,
  depth: null,
  jitterMs: 0.3,
  othersMegabytesPerSecond: 40,
  fault: null,
  seed: 9,
};

test('a choice becomes a model: presets, and what differs from them', () => {
  expect(standInModel(choice)).toMatchObject({
    link: linkPresets['ethernet-10'],
    drive: drivePresets.disk,
    level: 6,
    drives: 8,
    cache: { bytes: 2e9 },
    jitterUs: 300,
    othersBytesPerSecond: 40e6,
    seed: 9,
  });
  expect(standInModel({ ...choice, roundTripMs: 20, depth: 2 }).link).toMatchObject({
    roundTripUs: 20_000,
    depth: 2,
  });
  expect(expectedRate(standInModel({ ...choice, roundTripMs: 20, depth: 2 }), false, 2 ** 20)).toEqual({
    bytesPerSecond: (2 * 2 ** 20) / 0.02,
    limit: 'requests under way',
  });
});

test('a choice that cannot be says why', () => {
  expect(standInProblem({ ...choice, link: 'string' })?.message).toBe('Choose a link from the list.');
  expect(standInProblem({ ...choice, drive: 'tape' })?.message).toBe('Choose a drive from the list.');
  expect(() => standInModel({ ...choice, level: 1, drives: 1 })).toThrow('Level 1 needs at least 2 drives.');
});

test('models and faults in words', () => {
  expect(modelLabel(standInModel(choice))).toBe(
    '10 Gb/s Ethernet, normal frames; 8 drives at level 6, Rotating disk, 18 TB; server cache 2\u202fGB; other clients take 40\u202fMB/s',
  );
  expect(modelLabel(modelOf('usb-10', 'ssd'))).toBe('USB 10 Gb/s; SATA SSD, 4 TB');
  expect([
    faultLabel({ kind: 'drop-out', atSeconds: 5, seconds: 2 }),
    faultLabel({ kind: 'slow-drive', atSeconds: 1, share: 0.25 }),
    faultLabel({ kind: 'lower-link', atSeconds: 3, lineBitsPerSecond: 1e9 }),
    faultLabel({ kind: 'read-error', atSeconds: 0 }),
    faultLabel({ kind: 'full', afterBytes: 5e6 }),
    faultLabel({ kind: 'read-only' }),
  ]).toEqual([
    'drops out for 2\u202fs after 5\u202fs',
    'one drive falls to 25\u202f% after 1\u202fs',
    'link falls to 1 Gb/s after 3\u202fs',
    'read errors after 0\u202fs',
    'full after 5\u202fMB written',
    'read-only',
  ]);
});

test('presets name all links that are asked for, and an unknown one falls back', () => {
  for (const gigabits of [1, 2.5, 5, 10, 25])
    for (const frames of ['', '-jumbo']) expect(linkPresets[`ethernet-${gigabits}${frames}`]).toBeDefined();
  for (const megabytes of [104, 312, 600, 985, 1970])
    expect(linkPresets[`card-${megabytes}`]!.lineBitsPerSecond).toBe(megabytes * 8e6);
  for (const link of Object.values(linkPresets)) expect(link.payloadShare).toBeLessThanOrEqual(1);
  expect(linkPreset('gone').label).toContain('1 Gb/s');
});

/** Two steps of frames every 40 ms: the first in time, the second late from `lateFrom` on. */
function ramp(lateFrom: number, hostLate = false) {
  const frames = 100;
  const blocks = emptyBlocks(2 * frames);
  for (let row = 0; row < 2 * frames; row++) {
    const frame = row % frames;
    const isLate = row >= frames && frame >= lateFrom;
    blocks.repeat[row] = row < frames ? 0 : 1;
    blocks.dueUs[row] = 1e6 + frame * 40_000;
    blocks.startUs[row] = frame * 40_000;
    blocks.endUs[row] = blocks.dueUs[row]! + (isLate ? 10_000 : -500_000);
    blocks.bytes[row] = 1e6;
    blocks.hostLate[row] = isLate && hostLate ? 1 : 0;
  }
  return blocks;
}

const demand = { meanBitsPerSecond: 200e6, peakBitsPerSecond: 240e6 };
const by = (bytesPerSecond: number) => ({ bytesPerSecond, from: 'measured' as const, limit: null });

test('what held a ramp: the data rate, the time of answers, this machine, or nothing', () => {
  const rate = summariseStreams(ramp(40), [1, 2], demand, 40_000, 8, by(55e6)); // two streams ask for 50 of 55 MB/s
  expect(rate).toMatchObject({ clean: 1, missed: 2, limit: 'data rate', arithmetic: { streams: 1 } });
  expect(streamsSentence(rate)).toBe('Carries 1 stream, not 2, limited by its data rate. Arithmetic says 1.');
  const answers = summariseStreams(ramp(40), [1, 2], demand, 40_000, 8, by(500e6));
  expect(answers.limit).toBe('answer time');
  expect(streamsSentence(answers)).toContain(
    'limited by its response time while data rate was left. Arithmetic says 16.',
  );
  expect(summariseStreams(ramp(40, true), [1, 2], demand, 40_000, 8, null).limit).toBe('this machine');
  const all = summariseStreams(ramp(100), [1, 2], demand, 40_000, 2, null);
  expect(all).toMatchObject({ clean: 2, missed: null, limit: 'most streams tried', arithmetic: null });
  expect(streamsSentence(all)).toBe(
    'Carries at least 2 streams: no slot was missed up to the most that was tried.',
  );
  expect(summariseStreams(ramp(100), [1, 2], demand, 40_000, 8, null).limit).toBe('ended before');
  expect(streamsSentence(summariseStreams(ramp(40), [3, 1], demand, 40_000, 8, null))).toContain(
    'Does not carry one stream',
  );
});

describe('whose the missed slots of a stand-in’s stream are', () => {
  const slotUs = 40_000;
  /** A stream of frames that the model answers in 10 ms each; the host stalls before some, for some time. */
  function stream(modelTakesUs: number, stalls: Readonly<Record<number, number>>) {
    const host = new HostLateness();
    let now = 0;
    let [missed, byHost] = [0, 0];
    for (let frame = 0; frame < 100; frame++) {
      const dueUs = (frame + 5) * slotUs;
      const earliestUs = frame * slotUs;
      now = Math.max(now, earliestUs) + (stalls[frame] ?? 0);
      if (now > dueUs) {
        missed++;
        if (host.givenUp(earliestUs, dueUs)) byHost++;
        continue;
      }
      const modelUs = now + modelTakesUs;
      const endUs = modelUs + 60;
      if (endUs > dueUs) missed++;
      if (host.answered(earliestUs, { begunUs: now, modelUs, endUs, dueUs })) byHost++;
      now = endUs;
    }
    return { missed, byHost };
  }

  test('a stall of the host that its read-ahead hides costs nothing', () => {
    expect(stream(10_000, { 20: 150_000 })).toEqual({ missed: 0, byHost: 0 });
  });

  test('what a longer stall makes late, and gives up, is the host’s', () => {
    const { missed, byHost } = stream(10_000, { 20: 400_000 });
    expect(missed).toBeGreaterThan(3);
    expect(byHost).toBe(missed);
    // Near the pace of the clip the stall's lateness lasts long behind it.
    const slow = stream(39_000, { 20: 400_000 });
    expect(slow.missed).toBeGreaterThan(missed);
    expect(slow.byHost).toBe(slow.missed);
  });

  test('what the model itself is too slow for is not', () => {
    const { missed, byHost } = stream(50_000, {});
    expect(missed).toBeGreaterThan(10);
    expect(byHost).toBe(0);
  });
});
