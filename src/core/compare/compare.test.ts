import { normal } from '../stats/testing/noise';
import { seededRandom } from '../stats/random';
import { holm, rankSumChance } from '../stats/rankSum';
import { against, countedValues, basesOf, compareAll, differences, type Metric, type Side } from './compare';
import { metricsOf, valuesOf } from '../kinds/kinds';
import { againstSentence, bothWays } from '../sentences/compare';

const time: Metric = { id: 'time', name: 'Time', unit: 's', better: 'lower', measures: 'time' };
const side = (
  name: string,
  values: readonly number[],
  conditions: Readonly<Record<string, string>> = {},
  excluded: string | null = null,
): Side => ({
  id: name,
  name,
  simulated: false,
  conditions,
  repeats: values.map((value, at) => ({
    trialId: `${name}${at}`,
    href: '',
    at: '',
    values: { time: value },
    excluded,
    doubt: null,
  })),
});
const steady = (value: number, count: number) =>
  Array.from({ length: count }, (_, at) => value * (1 + (at % 3) / 1_000));

test('both ways of telling a speed, never one alone', () => {
  expect(bothWays(305 / 173)).toBe('1.76x as fast, 43\u202f% less time');
  expect(bothWays(173 / 305, 'the store')).toBe('0.57x as fast as the store, 76\u202f% more time');
  expect(bothWays(1)).toBe('1.00x as fast, the same time');
});

test('every difference is named, the one that was asked about is marked, equal conditions are left out', () => {
  const found = differences(
    [
      { conditions: { Volume: 'A', Link: 'x', Scale: 'full', Rig: 'R' } },
      { conditions: { Volume: 'B', Link: 'y', Scale: 'half', Rig: 'R', Power: 'mains' } },
    ],
    'Volume',
  );
  expect(found).toEqual([
    { condition: 'Volume', values: ['A', 'B'], asked: true, comesWith: null },
    { condition: 'Link', values: ['x', 'y'], asked: false, comesWith: 'Volume' },
    { condition: 'Scale', values: ['full', 'half'], asked: false, comesWith: null },
    { condition: 'Power', values: ['not told', 'mains'], asked: false, comesWith: null },
  ]);
  // Proxies are other files of another format; a format that differs by itself is a difference that was made.
  expect(
    differences(
      [
        { conditions: { Form: 'originals', Format: 'a', Content: 'x' } },
        { conditions: { Form: 'proxies', Format: 'b', Content: 'y' } },
      ],
      'Form',
    ).map(({ comesWith }) => comesWith),
  ).toEqual([null, 'Form', 'Form']);
  expect(
    differences([{ conditions: { Format: 'a' } }, { conditions: { Format: 'b' } }], 'Volume')[0]?.comesWith,
  ).toBeNull();
});

describe('what a side is held against', () => {
  const sides = (...conditions: Record<string, string>[]) => conditions.map((one) => ({ conditions: one }));
  const bases = (asked: string | null, ...conditions: Record<string, string>[]) =>
    basesOf(conditions, differences(sides(...conditions), asked));
  const form = (Form: string, Footage: string) => ({ Form, Footage, Content: `${Footage} ${Form}` });

  test('is its counterpart in what was asked about, alike in all else', () => {
    expect(
      bases(
        'Form',
        form('originals', 'A'),
        form('proxies', 'A'),
        form('originals', 'B'),
        form('proxies', 'B'),
      ),
    ).toEqual([null, 0, null, 2]);
    // Whatever comes first says which value is the base, in whatever order the others stand.
    expect(
      bases(
        'Form',
        form('proxies', 'A'),
        form('originals', 'A'),
        form('originals', 'B'),
        form('proxies', 'B'),
      ),
    ).toEqual([null, 0, 3, null]);
    expect(
      bases(
        'Footage',
        form('originals', 'A'),
        form('proxies', 'A'),
        form('originals', 'B'),
        form('proxies', 'B'),
      ),
    ).toEqual([null, null, 0, 1]);
  });

  test('stays its counterpart where something else changed along with what is asked about', () => {
    const run = (when: string, Content: string, Governor: string) => ({
      'Measured in': when,
      Content,
      Governor,
    });
    expect(
      bases(
        'Measured in',
        run('before', 'A', 'powersave'),
        run('before', 'B', 'powersave'),
        run('after', 'A', 'performance'),
        run('after', 'B', 'performance'),
      ),
    ).toEqual([null, null, 0, 1]);
  });

  test('is the first of all where there is no counterpart, or nothing was asked', () => {
    expect(bases('Form', form('originals', 'A'), form('proxies', 'A'), form('proxies', 'C'))).toEqual([
      null,
      0,
      0,
    ]);
    expect(bases('Volume', { Volume: 'x' }, { Volume: 'y' }, { Volume: 'z' })).toEqual([null, 0, 0]);
    expect(bases(null, { Volume: 'x' }, { Volume: 'x' })).toEqual([null, 0]);
  });

  test('decides the ratio', () => {
    const four = [
      side('a', steady(10, 5)),
      side('b', steady(5, 5)),
      side('c', steady(40, 5)),
      side('d', steady(10, 5)),
    ];
    const found = against(four, time, [null, 0, null, 2]);
    expect(found.map(({ base, ratio }) => [base, ratio && Math.round(ratio.value)])).toEqual([
      [null, null],
      [0, 2],
      [null, null],
      [2, 4],
    ]);
    expect(found.map(({ verdict }) => verdict)).toEqual(['base', 'better', 'base', 'better']);
  });
});

describe('a side against the first', () => {
  test('is better or worse when its interval leaves out 1 and both have enough repeats', () => {
    const [base, fast, slow] = against(
      [side('a', steady(10, 5)), side('b', steady(5, 5)), side('c', steady(20, 5))],
      time,
    );
    expect(base?.verdict).toBe('base');
    expect([fast?.verdict, slow?.verdict]).toEqual(['better', 'worse']);
    expect(fast?.ratio?.value).toBeCloseTo(2, 2);
    const rate: Metric = { ...time, better: 'higher', measures: 'rate' };
    expect(against([side('a', steady(10, 5)), side('b', steady(20, 5))], rate)[1]?.verdict).toBe('better');
    const drops: Metric = { ...time, better: 'lower', measures: 'share' };
    expect(against([side('a', steady(10, 5)), side('b', steady(20, 5))], drops)[1]?.verdict).toBe('worse');
  });

  test('says in words when there are too few repeats, or when the interval holds 1', () => {
    const few = against([side('a', steady(10, 3)), side('b', steady(5, 5))], time)[1]!;
    expect(few.verdict).toBe('too few repeats');
    expect(
      againstSentence('b', 'a', time, few, against([side('a', steady(10, 3))], time)[0]!.figures),
    ).toMatch(/2.00x as fast as a, 50\s% less time, but too few repeats to tell \(5 and 3 repeats; 5 each/);
    const alike = against([side('a', [10, 11, 9, 10, 12]), side('b', [11, 10, 9, 12, 10])], time)[1]!;
    expect(alike.verdict).toBe('no difference shown');
    expect(
      againstSentence('b', 'a', time, alike, against([side('a', [10, 11, 9, 10, 12])], time)[0]!.figures),
    ).toMatch(/no difference shown.*holds 1/);
  });

  test('repeats in doubt count only where there are not enough others', () => {
    const five = side('a', [1, 2, 3, 4, 5, 90, 91]);
    const doubtful = (from: number): Side => ({
      ...five,
      repeats: five.repeats.map((repeat, at) =>
        at < from ? repeat : { ...repeat, doubt: { word: 'unsteady', reason: 'slow' } },
      ),
    });
    expect(countedValues(doubtful(5), 'time')).toEqual([1, 2, 3, 4, 5]);
    expect(countedValues(doubtful(4), 'time')).toEqual([1, 2, 3, 4, 5, 90, 91]);
    expect(countedValues(doubtful(7), 'time')).toEqual([1, 2, 3, 4, 5, 90, 91]);
  });

  test('counts no excluded repeat, and makes no ratio of nothing or of 0', () => {
    expect(
      against([side('a', steady(10, 5)), side('b', steady(5, 5), {}, 'the cable was loose')], time)[1]
        ?.verdict,
    ).toBe('not comparable');
    const zero = against([side('a', [0, 0, 0, 0, 0]), side('b', steady(5, 5))], time)[1]!;
    expect(zero.verdict).toBe('not comparable');
    expect(
      againstSentence('b', 'a', time, zero, against([side('a', [0, 0, 0, 0, 0])], time)[0]!.figures),
    ).toMatch(/no ratio can be made of 0/);
  });

  test('shares are held against each other by their difference, so that 0\u202f% can be told from 38\u202f%', () => {
    const drops: Metric = {
      id: 'time',
      name: 'Dropped slots',
      unit: '%',
      better: 'lower',
      measures: 'share',
    };
    const [base, none] = against([side('a', [38, 36, 40, 37, 39]), side('b', [0, 0, 0, 0, 0])], drops);
    expect(none).toMatchObject({ verdict: 'better', ratio: null, difference: { value: -38 } });
    expect(againstSentence('b', 'a', drops, none!, base!.figures)).toMatch(
      /^b: 0\s% against 38\s% of a, dropped slots \(95\s% interval of the difference -40 to -3[67]\s%, 5 and 5 repeats\)\.$/,
    );
    expect(against([side('a', [0, 0, 0, 0, 0]), side('b', [0, 0, 0, 0, 0])], drops)[1]?.verdict).toBe(
      'no difference shown',
    );
  });
});

describe('a difference that matters, and is no chance', () => {
  const about = (value: number) => steady(value, 5);

  test('a tenth of a per mille is shown and does not matter; what matters is for the user to say', () => {
    const sides = [
      side('a', about(100)),
      side(
        'b',
        about(100.1).map((value) => value + 0.3),
      ),
    ];
    const small = against(sides, time)[1]!;
    expect(small.verdict).toBe('too small to matter');
    expect(againstSentence('b', 'a', time, small, against(sides, time)[0]!.figures)).toMatch(
      /^b: 1.00x as fast as a, the same time .*less than what matters\.$/,
    );
    expect(against(sides, time, undefined, 0)[1]?.verdict).toBe('worse');
    expect(against([side('a', about(100)), side('b', about(110))], time)[1]?.verdict).toBe('worse');
    expect(against([side('a', about(100)), side('b', about(110))], time, undefined, 0.2)[1]?.verdict).toBe(
      'too small to matter',
    );
    // 0 against anything always matters.
    const drops: Metric = { ...time, better: 'lower', measures: 'share' };
    expect(
      against([side('a', [0, 0, 0, 0, 0]), side('b', about(0.1))], drops, undefined, 0.5)[1]?.verdict,
    ).toBe('worse');
  });

  /** Two sides that are alike in so many figures, or in all but the first. */
  function alike(random: () => number, figures: number, repeats: number, firstBetterBy = 1) {
    const metrics = Array.from({ length: figures }, (_, at): Metric => ({ ...time, id: `m${at}` }));
    const of = (name: string, factor: number): Side => ({
      ...side(name, []),
      repeats: Array.from({ length: repeats }, (_, at) => ({
        trialId: `${name}${at}`,
        href: '',
        at: '',
        excluded: null,
        doubt: null,
        values: Object.fromEntries(
          metrics.map(({ id }, metric) => [
            id,
            100 * (1 + 0.1 * normal(random)) * (metric === 0 ? factor : 1),
          ]),
        ),
      })),
    });
    return compareAll([of('a', 1), of('b', firstBetterBy)], metrics).map(
      ({ against: all }) => all[1]!.verdict,
    );
  }

  test.each([
    [5, 15],
    [8, 15],
    [12, 15],
    [8, 5],
  ])(
    'of things that are alike, with %i repeats and %i figures at once, at most 5\u202f%% of comparisons show a difference',
    (repeats, figures) => {
      const random = seededRandom(31);
      const wrong = Array.from({ length: 60 }, () =>
        alike(random, figures, repeats).some((verdict) => verdict === 'better' || verdict === 'worse'),
      );
      expect(wrong.filter(Boolean).length / 60).toBeLessThanOrEqual(0.1); // 5 %, and chance over 60 of them; without the correction about half do
    },
  );

  test('a real difference among fifteen figures is still found, and one that may be chance is told as such', () => {
    const random = seededRandom(32);
    expect(
      Array.from({ length: 40 }, () => alike(random, 15, 10, 1.4)[0]).filter((verdict) => verdict === 'worse')
        .length,
    ).toBeGreaterThan(36);
    const barely = alike(seededRandom(33), 15, 5, 1.6)[0];
    expect(barely).toBe('may be chance'); // five repeats each cannot tell among fifteen
    expect(alike(seededRandom(33), 5, 5, 1.6)[0]).toBe('worse');
  });

  test('the rank-sum chance and its correction by hand', () => {
    expect(rankSumChance([1, 2, 3, 4, 5], [6, 7, 8, 9, 10])).toBeCloseTo(2 / 252, 12);
    expect(rankSumChance([1, 2], [3, 4])).toBeCloseTo(2 / 6, 12);
    expect(rankSumChance([1, 1, 1], [1, 1, 1])).toBe(1);
    expect(rankSumChance([1, 2, 2], [2, 3, 3])).toBeCloseTo(0.3, 12); // of 20 ways 3 have the least sum, 7, and 3 the greatest: 2, 2 and 2 share a rank
    expect(rankSumChance([], [1])).toBe(1);
    // Beyond what is counted out, the normal distribution goes on where counting ends.
    const many = (count: number) =>
      rankSumChance(
        Array.from({ length: count }, (_, at) => at),
        Array.from({ length: count }, (_, at) => at + count * 0.3),
      );
    expect(many(31) / many(30)).toBeGreaterThan(0.6);
    expect(many(31) / many(30)).toBeLessThan(1.2);
    // Two times 16 values, as counted out: nearly the same, and in the tail on the safe side.
    const apart = (by: number) =>
      rankSumChance(
        Array.from({ length: 16 }, (_, at) => at),
        Array.from({ length: 16 }, (_, at) => at + by + 0.5),
      );
    expect(apart(2) / 0.171256).toBeCloseTo(1, 1);
    expect(apart(4) / 0.018931).toBeCloseTo(1.08, 1);
    expect(apart(6)).toBeGreaterThan(0.001238);
    expect(apart(6)).toBeLessThan(0.002);
    expect(holm([0.01, 0.04, 0.03, 0.005])).toEqual(
      [0.03, 0.06, 0.06, 0.02].map((value) => expect.closeTo(value, 12) as number),
    );
    expect(holm([0.9, 0.6])).toEqual([1, 1]);
    expect(holm([null, 0.02, null, 0.03])).toEqual([null, 0.04, null, 0.04]); // of two that were tested
  });
});

const context = {
  rate: { num: 25, den: 1 },
  startLatencyMs: null,
  deviceName: null,
  processorShare: null,
  framePacedStreams: null,
  verified: false,
};

test('stage times are per second of media, so that clips of other rates compare; under every frame nothing can drop', () => {
  const summary = {
    slots: 100,
    dropped: 5,
    grade: 'rough',
    timesRealTime: null,
    serviceMs: { read: 1, decode: 10, process: 2 },
  } as never;
  expect(valuesOf({ kind: 'playback', summary, ...context, startLatencyMs: 80 })).toEqual({
    dropped: 5,
    readTime: 25,
    decodeTime: 250,
    processTime: 50,
    startLatency: 80,
  });
  const every = {
    slots: 100,
    dropped: 0,
    grade: null,
    timesRealTime: 4,
    serviceMs: { read: 1, decode: 10, process: 2 },
  } as never;
  expect(valuesOf({ kind: 'playback', summary: every, ...context })).toMatchObject({
    playTime: 0.25,
  });
  expect(valuesOf({ kind: 'playback', summary: every, ...context }).dropped).toBeUndefined();
  expect(metricsOf([{ repeats: [{ values: { decodeTime: 1, dropped: 0 } }] }]).map(({ id }) => id)).toEqual([
    'dropped',
    'decodeTime',
  ]);
});

describe('figures of trials of other kinds', () => {
  test('scrubbing gives latency and lag; without a picture there is no latency', () => {
    const summary = {
      requests: 3,
      shown: 2,
      superseded: 1,
      wrong: 0,
      proved: true,
      latencyMs: { p50: 12, p95: 40, max: 55 },
      partsMs: null,
      lagSlots: { mean: 1.5, most: 9 },
      seconds: 4,
    };
    expect(valuesOf({ ...context, kind: 'scrub', summary })).toEqual({
      latencyP50: 12,
      latencyP95: 40,
      lag: 1.5,
    });
    expect(valuesOf({ ...context, kind: 'scrub', summary: { ...summary, latencyMs: null } })).toEqual({
      lag: 1.5,
    });
  });

  test('storage gives sustained rates in MB/s of the directions that were measured, and streams carried', () => {
    expect(
      valuesOf({
        ...context,
        kind: 'throughput',
        summary: { repeats: [], read: { sustained: 512e6 }, write: null } as never,
      }),
    ).toEqual({ read: 512 });
    expect(
      valuesOf({
        ...context,
        kind: 'throughput',
        summary: { repeats: [], read: null, write: { sustained: 80e6 } } as never,
      }),
    ).toEqual({ write: 80 });
    expect(
      valuesOf({ ...context, kind: 'streams-carried', summary: { clean: 3, missed: 4 } as never }),
    ).toEqual({ streams: 3 });
  });

  test('decoding gives ms per second of media on one core and on all; a device its ratio, a ramp its streams', () => {
    const summary = {
      kind: 'decode-rate',
      one: { framesPerSecond: { median: 50 } },
      all: { framesPerSecond: { median: 125 } },
      firstFrameMs: 30,
    } as never;
    expect(valuesOf({ ...context, kind: 'decode-rate', summary })).toEqual({
      decodeOne: 500,
      decodeAll: 200,
      firstFrame: 30,
    });
    expect(
      valuesOf({
        ...context,
        kind: 'decode-rate',
        summary: { kind: 'decode-rate', one: null, all: null, firstFrameMs: null } as never,
      }),
    ).toEqual({});
    const support = { parts: [{ ratio: { value: 2.5, low: 2.4, high: 2.6 } }] } as never;
    expect(valuesOf({ ...context, kind: 'decode-support', summary: support })).toEqual({ deviceRatio: 2.5 });
    const streams = { clean: 3 } as never;
    expect(valuesOf({ ...context, kind: 'decode-streams', summary: streams })).toEqual({ decodedStreams: 3 });
  });

  test('ramps give the level that plays at each scale, calibrations a layer, copies and renditions how fast they go', () => {
    const ramp = {
      edges: [
        { scale: 'full', plays: 3 },
        { scale: 'half', plays: 7 },
      ],
    } as never;
    expect(valuesOf({ ...context, kind: 'ramp', summary: ramp })).toEqual({ fullLevel: 3, halfLevel: 7 });
    const costs = { scales: [{ scale: 'quarter', baseUs: 1500 }] } as never;
    expect(valuesOf({ ...context, kind: 'calibration', summary: costs })).toEqual({ quarterLayer: 1.5 });
    const copy = { copied: 2, seconds: 4, bytes: 400e6 };
    expect(valuesOf({ ...context, kind: 'copy', summary: copy as never })).toEqual({ copied: 100 });
    expect(valuesOf({ ...context, kind: 'copy', summary: { ...copy, copied: 0 } as never })).toEqual({});
    const made = { items: 2, made: 2, present: 0, failed: 0 };
    expect(valuesOf({ ...context, kind: 'renditions', summary: made })).toEqual({});
    expect(
      valuesOf({ ...context, kind: 'renditions', summary: { ...made, frames: 300, workedMs: 10_000 } }),
    ).toEqual({ made: 30 });
  });

  test('stand in the order in which they decide, and only where some side has them', () => {
    expect(
      metricsOf([
        { repeats: [{ values: { lag: 1 } }] },
        { repeats: [{ values: { latencyP95: 3, unknown: 1 } }] },
      ]).map(({ id, better }) => [id, better]),
    ).toEqual([
      ['latencyP95', 'lower'],
      ['lag', 'lower'],
    ]);
    expect(metricsOf([{ repeats: [] }])).toEqual([]);
  });
});
