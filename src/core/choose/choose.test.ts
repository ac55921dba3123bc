import fc from 'fast-check';
import { grades, type Grade } from '../playback/grade';
import { rational } from '../time/rational';
import { briefProblem, bytesPerDay, type Brief, type BriefCamera } from './brief';
import { judgeCell, reaches, type CellEvidence, type CellRun, type FormatRow, type Judgement } from './judge';
import { headroomWords, rankSetUps, type PlaceFacts } from './setups';
import { choiceSentence } from '../sentences/choose';

const format = {
  container: 'MOV',
  codec: 'ProRes',
  profile: null,
  bitDepth: 10,
  chroma: '4:2:2',
  width: 1920,
  height: 1080,
  rate: rational(25),
};
const camera: BriefCamera = {
  id: 'c1',
  name: 'Wall',
  contentHash: 'h1',
  clipName: 'wall.mov',
  format,
  meanBitsPerSecond: 160e6,
  peakBitsPerSecond: 200e6,
  hoursPerDay: 2,
};
const brief: Brief = {
  question: '',
  cameras: [camera],
  days: 10,
  streams: 2,
  looks: 0,
  scale: 'full',
  speed: 1,
  margin: 0.25,
  grade: 'workable',
  budget: 1_000,
  places: [{ rigId: 'r', volumeId: 'v', price: 200 }],
  cardBytesPerSecond: null,
};
const row: FormatRow = {
  id: 'h1',
  cameraId: 'c1',
  role: 'original',
  name: 'Wall',
  format,
  meanBitsPerSecond: 160e6,
  peakBitsPerSecond: 200e6,
};
const proxy: FormatRow = {
  ...row,
  id: 'p1',
  role: 'proxy',
  name: 'Wall proxy',
  meanBitsPerSecond: 16e6,
  peakBitsPerSecond: 20e6,
};
const nothing: CellEvidence = { runs: [], volume: null, decode: null, processMs: null };
const rate = (value: number) => ({ value, from: 'measured' as const, trialId: null });
const run = (grade: Grade, more: Partial<CellRun> = {}): CellRun => ({
  trialId: grade,
  grade,
  dropped: 0,
  slots: 100,
  slowestMs: 20,
  cures: ['Half scale would do.'],
  doubt: null,
  ...more,
});

describe('a cell', () => {
  test('by arithmetic: peak times streams with the margin against the volume, decoding against the slot', () => {
    // Two streams of 25 MB/s peak with a quarter on top need 62.5 MB/s; two frames of 5 ms fit the slot of 40 ms four times.
    const judged = judgeCell(row, brief, { ...nothing, volume: rate(62.5e6), decode: rate(200) });
    expect(judged).toMatchObject({ basis: 'arithmetic', grade: 'solid', limit: 'volume', meets: true });
    expect(judged.headroom).toBeCloseTo(0.25, 9);
    expect(judgeCell(row, brief, { ...nothing, volume: rate(55e6), decode: rate(200) })).toMatchObject({
      grade: 'workable',
      meets: true,
      headroom: expect.closeTo(0.1, 9) as number,
      underMargin: true,
    });
    expect(judgeCell(row, brief, { ...nothing, volume: rate(46e6), decode: rate(200) })).toMatchObject({
      grade: 'rough',
      meets: false,
      cure: 'A volume that sustains 63\u202fMB/s would do.',
    });
    expect(judgeCell(row, brief, { ...nothing, volume: rate(20e6), decode: rate(200) })).toMatchObject({
      grade: 'stalled',
      meets: false,
    });
  });

  test('processing counts where it was measured: decoding alone would fit', () => {
    const known = { ...nothing, volume: rate(1e9), decode: rate(100) };
    expect(judgeCell(row, brief, known)).toMatchObject({ limit: 'decoding', meets: true });
    expect(judgeCell(row, brief, { ...known, processMs: 15 })).toMatchObject({
      limit: 'decoding and processing',
      meets: false,
    });
  });

  test('what no rig can do is told as that, not as a factor', () => {
    expect(judgeCell(row, brief, { ...nothing, volume: rate(1e9), decode: rate(20) }).cure).toBe(
      'A rig 3.1x as fast at decoding would do.',
    );
    for (const none of [0, 0.01])
      expect(judgeCell(row, brief, { ...nothing, volume: rate(1e9), decode: rate(none) })).toMatchObject({
        meets: false,
        cure: "It needs more than 50x this rig's decoding: proxies or another format would do, no rig.",
      });
  });

  test("a shuttle asks for its speed's rate and decodes every frame it passes", () => {
    const known = { ...nothing, volume: rate(125e6), decode: rate(200) };
    expect(judgeCell(row, { ...brief, speed: 2 }, known)).toMatchObject({
      grade: 'solid',
      limit: 'volume',
      meets: true,
    });
    expect(judgeCell(row, { ...brief, speed: 4 }, known)).toMatchObject({ grade: 'stalled', meets: false });
    expect(judgeCell(row, { ...brief, speed: 8 }, { ...known, volume: rate(1e10) })).toMatchObject({
      limit: 'decoding',
      meets: false,
    });
  });

  test('is unknown while a part that could decide is not measured, but what fails for certain says so', () => {
    expect(judgeCell(row, brief, { ...nothing, volume: rate(1e9) })).toMatchObject({
      basis: 'unknown',
      grade: null,
      meets: null,
      missing: ['decoding'],
    });
    expect(judgeCell(row, brief, nothing).missing).toEqual(['volume', 'decoding']);
    expect(judgeCell(row, brief, { ...nothing, volume: rate(10e6) })).toMatchObject({
      basis: 'arithmetic',
      meets: false,
    });
  });

  test('measured: the worst of the newest runs counts, steady ones before those in doubt', () => {
    expect(
      judgeCell(row, brief, { ...nothing, volume: rate(1), runs: [run('solid'), run('rough')] }),
    ).toMatchObject({ basis: 'measured', grade: 'rough', meets: false, cure: 'Half scale would do.' });
    expect(
      judgeCell(row, brief, { ...nothing, runs: [run('solid'), run('stalled', { doubt: 'unsteady' })] }),
    ).toMatchObject({ grade: 'solid', isDoubtful: false });
    expect(
      judgeCell(row, brief, { ...nothing, runs: [run('stalled', { doubt: 'disturbed' })] }),
    ).toMatchObject({ grade: 'stalled', isDoubtful: true });
    expect(
      judgeCell(row, brief, {
        ...nothing,
        runs: [...Array.from({ length: 5 }, () => run('solid')), run('stalled')],
      }).grade,
    ).toBe('solid');
    expect(judgeCell(row, brief, { ...nothing, runs: [run('solid', { slowestMs: 20 })] })).toMatchObject({
      headroom: expect.closeTo(1, 9) as number,
      underMargin: false,
    });
    // A slot of 40 ms over 36 ms leaves 11 %, less than the quarter that is wanted; it meets the grade all the same.
    expect(judgeCell(row, brief, { ...nothing, runs: [run('solid', { slowestMs: 36 })] })).toMatchObject({
      headroom: expect.closeTo(1 / 9, 9) as number,
      underMargin: true,
      meets: true,
    });
  });

  test('a faster volume or decoder never makes a worse grade', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1e6, max: 1e9, noNaN: true }),
        fc.double({ min: 10, max: 1_000, noNaN: true }),
        fc.double({ min: 1, max: 4, noNaN: true }),
        (volume, decode, factor) => {
          const before = judgeCell(row, brief, { ...nothing, volume: rate(volume), decode: rate(decode) });
          const after = judgeCell(row, brief, {
            ...nothing,
            volume: rate(volume * factor),
            decode: rate(decode * factor),
          });
          expect(grades.indexOf(after.grade!)).toBeLessThanOrEqual(grades.indexOf(before.grade!));
          expect(after.headroom!).toBeGreaterThanOrEqual(before.headroom! - 1e-9);
        },
      ),
    );
  });
});

const cell = (grade: Grade, headroom: number): Judgement => ({
  basis: 'measured',
  grade,
  headroom,
  underMargin: false,
  limit: 'slowest stage',
  meets: reaches(grade, 'workable'),
  cure: reaches(grade, 'workable') ? null : 'Half scale would do.',
  missing: [],
  isDoubtful: false,
});
const unknown: Judgement = {
  basis: 'unknown',
  grade: null,
  headroom: null,
  underMargin: false,
  limit: null,
  meets: null,
  cure: null,
  missing: ['decoding'],
  isDoubtful: false,
};
const place = (
  name: string,
  price: number | null,
  cells: readonly (readonly [string, Judgement])[],
  freeBytes: number | null = 100e12,
): PlaceFacts => ({
  place: { rigId: 'r', volumeId: name, price },
  name,
  modelled: false,
  freeBytes,
  currency: 'EUR',
  writeBytesPerSecond: 100e6,
  cells: new Map(cells),
});
const noSpeeds = () => new Map<string, number>();

describe('set-ups', () => {
  test('those that meet the brief come first, by cost, originals before proxies; then unknown ones, then failing ones', () => {
    const both = [
      ['h1', cell('solid', 1)],
      ['p1', cell('solid', 9)],
    ] as const;
    const ranked = rankSetUps(
      brief,
      [row, proxy],
      [
        place('dear', 900, both),
        place('cheap', 100, both),
        place('open', 50, [
          ['h1', unknown],
          ['p1', unknown],
        ]),
        place('slow', 10, [
          ['h1', cell('stalled', -0.5)],
          ['p1', cell('stalled', -0.2)],
        ]),
      ],
      noSpeeds,
      null,
    );
    expect(ranked.map(({ name, form, meets }) => `${name} ${form} ${meets}`)).toEqual([
      'cheap originals true',
      'cheap proxies true',
      'dear originals true',
      'dear proxies true',
      'open originals null',
      'open proxies null',
      'slow originals false',
      'slow proxies where needed false',
    ]);
  });

  test('proxies only where originals fail make a set-up of their own', () => {
    const two: Brief = {
      ...brief,
      cameras: [camera, { ...camera, id: 'c2', name: 'Kite', contentHash: 'h2' }],
    };
    const rows = [
      row,
      proxy,
      { ...row, id: 'h2', cameraId: 'c2', name: 'Kite' },
      { ...proxy, id: 'p2', cameraId: 'c2', name: 'Kite proxy' },
    ];
    const ranked = rankSetUps(
      two,
      rows,
      [
        place('v', 1, [
          ['h1', cell('stalled', -0.5)],
          ['p1', cell('solid', 1)],
          ['h2', cell('solid', 1)],
          ['p2', cell('solid', 1)],
        ]),
      ],
      noSpeeds,
      null,
    );
    expect(ranked.map(({ form, rows: played, meets }) => [form, played.join(), meets])).toEqual([
      ['proxies where needed', 'p1,h2', true],
      ['proxies', 'p1,p2', true],
      ['originals', 'h1,h2', false],
    ]);
  });

  test('cost, capacity, copying and proxies by hand', () => {
    const [only] = rankSetUps(
      brief,
      [row, proxy],
      [
        place(
          'v',
          200,
          [
            ['h1', cell('stalled', -1)],
            ['p1', cell('solid', 1)],
          ],
          1e12,
        ),
      ],
      () => new Map([['c1', 4]]),
      80e6,
    ).filter(({ meets, form }) => !meets && form !== 'originals');
    // 2 h of 160 Mb/s are 144 GB, of 16 Mb/s 14.4 GB: 158.4 GB a day, 1.584 TB in ten days, of which 1 TB holds 6.3.
    expect(bytesPerDay(camera)).toBe(144e9);
    expect(only?.bytesPerDay).toBeCloseTo(158.4e9, 0);
    expect(only?.daysHeld).toBeCloseTo(6.313, 2);
    expect(only?.copySecondsPerDay).toBe(144e9 / 80e6);
    expect(only?.proxySecondsPerDay).toBe(7_200 / 4);
    expect(only?.fails).toEqual(['has room for 6.3 of 10 days']);
    expect(only?.cures).toEqual(['2 with as much room hold the job, for 400\u202fEUR.']);
  });

  test('the answer names the best, or the nearest with why, or what is still open', () => {
    const good = rankSetUps(
      brief,
      [row],
      [place('Store', 900, [['h1', cell('solid', 0.35)]])],
      noSpeeds,
      null,
    );
    expect(choiceSentence(brief, good, 1)).toBe(
      'Store with originals for 900\u202fEUR: solid at full scale, 35\u202f% to spare. 1 of 1 set-ups meet the brief. 1 cell is still unknown.',
    );
    const bad = rankSetUps(
      { ...brief, budget: 100 },
      [row],
      [place('Store', 900, [['h1', cell('stalled', -0.5)]])],
      noSpeeds,
      null,
    );
    expect(choiceSentence(brief, bad, 0)).toBe(
      'No set-up meets the brief. Nearest: Store with originals, which plays stalled: Wall is stalled; costs 900\u202fEUR, the budget is 100\u202fEUR.',
    );
    expect(bad[0]?.cures).toEqual(expect.arrayContaining(['Of Wall there is no proxy yet; one may play.']));
    const having = rankSetUps(
      brief,
      [row, proxy],
      [
        place('Store', 900, [
          ['h1', cell('stalled', -0.5)],
          ['p1', cell('stalled', -0.2)],
        ]),
      ],
      noSpeeds,
      null,
    );
    expect(having.flatMap(({ cures }) => cures).join()).not.toContain('no proxy yet');
    expect(
      choiceSentence(
        brief,
        rankSetUps(brief, [row], [place('Store', 1, [['h1', unknown]])], noSpeeds, null),
        1,
      ),
    ).toMatch(/No set-up is known to meet the brief yet; 1 may once the unknown cell is measured/);
    expect(choiceSentence(brief, [], 0)).toMatch(/nothing to choose from/);
  });

  test('an unknown is neither enough nor free: it is named, and comes after what is known', () => {
    const good = [['h1', cell('solid', 1)]] as const;
    const ranked = rankSetUps(
      brief,
      [row],
      [place('nameless', null, good), place('sealed', 10, good, null), place('dear', 900, good)],
      noSpeeds,
      null,
    );
    expect(ranked.map(({ name, meets, unknown: wanted }) => [name, meets, wanted])).toEqual([
      ['dear', true, []],
      ['sealed', null, ['how much is free on sealed']],
      ['nameless', null, ['what nameless costs']],
    ]);
    expect(choiceSentence(brief, ranked.slice(1), 0)).toBe(
      'No set-up is known to meet the brief yet; 2 may once it is told how much is free on sealed, what nameless costs.',
    );
    // Without a budget a price only ranks: a set-up without one meets the brief, behind those that have one.
    const free = rankSetUps(
      { ...brief, budget: null },
      [row],
      [place('nameless', null, good), place('dear', 900, good)],
      noSpeeds,
      null,
    );
    expect(free.map(({ name, meets, unknown: wanted }) => [name, meets, wanted])).toEqual([
      ['dear', true, []],
      ['nameless', true, ['what nameless costs']],
    ]);
    // Where no price is told at all, none is missed.
    const untold = { ...brief, budget: null, places: [{ rigId: 'r', volumeId: 'v', price: null }] };
    expect(rankSetUps(untold, [row], [place('nameless', null, good)], noSpeeds, null)[0]).toMatchObject({
      meets: true,
      unknown: [],
    });
    // What is there already costs nothing, and of more of it no price is known.
    expect(choiceSentence(brief, rankSetUps(brief, [row], [place('own', 0, good)], noSpeeds, null), 0)).toBe(
      'own with originals: solid at full scale, 100\u202f% to spare. 1 of 1 set-ups meet the brief.',
    );
    expect(rankSetUps(brief, [row], [place('own', 0, good, 1e12)], noSpeeds, null)[0]?.cures).toEqual([
      '2 with as much room hold the job.',
    ]);
    // A full volume holds nothing, however many there are.
    expect(rankSetUps(brief, [row], [place('full', 1, good, 0)], noSpeeds, null)[0]).toMatchObject({
      meets: false,
      fails: ['has room for 0.0 of 10 days'],
      cures: [],
    });
  });

  test('what rests on a simulated rig is never called measured', () => {
    const facts = place('v', 1, [['h1', cell('solid', 1)]]);
    const basisOf = (one: PlaceFacts) => rankSetUps(brief, [row], [one], noSpeeds, null)[0]?.basis;
    expect([
      basisOf(facts),
      basisOf({ ...facts, modelled: true }),
      basisOf(place('v', 1, [['h1', { ...cell('solid', 1), basis: 'arithmetic' }]])),
    ]).toEqual(['measured', 'computed', 'computed']);
  });

  test('headroom in words', () => {
    expect([0.35, -0.2, 3.1].map((value) => headroomWords(value))).toEqual([
      '35\u202f% to spare',
      'short by 20\u202f%',
      '4.1x the need',
    ]);
    expect(headroomWords(0.08, true)).toBe('8\u202f% to spare, under the margin');
  });
});

test('a brief without cameras or volumes, or with one clip twice, says what to do', () => {
  expect(briefProblem(brief)).toBeNull();
  expect(briefProblem({ ...brief, cameras: [] })?.field).toBe('cameras');
  expect(briefProblem({ ...brief, cameras: [camera, { ...camera, id: 'c2' }] })?.message).toMatch(
    /same clip/,
  );
  expect(briefProblem({ ...brief, places: [] })?.field).toBe('places');
});
