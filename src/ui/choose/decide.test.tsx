import { AppRouterContext } from 'next/dist/shared/lib/app-router-context.shared-runtime';
import type { ContextType, ReactElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import { noGraphics } from '@/core/rig/graphics';
import type { Brief } from '@/core/choose/brief';
import type { Judgement } from '@/core/choose/judge';
import { rankSetUps } from '@/core/choose/setups';
import { basesOf, compareAll, differences, type Side } from '@/core/compare/compare';
import { metrics } from '@/core/kinds/kinds';
import { causeBit } from '@/core/playback/attribute';
import { slotState } from '@/core/playback/slots';
import { rational } from '@/core/time/rational';
import type { BriefForm as Offer } from '@/server/decide/briefs';
import type { Comparison } from '@/server/decide/comparisons';
import type { Decision, MapCell, MapPlace } from '@/server/decide/decision';
import type { PlanPage } from '@/server/decide/plans';
import { RibbonSvg } from '../charts/RibbonSvg';
import { BriefForm } from './BriefForm';
import { BriefView } from './BriefView';
import { DecisionMap } from './DecisionMap';
import { FirstRun } from './FirstRun';
import { ReportView } from './ReportView';
import { SetUpTable } from './SetUpTable';
import { daySpan } from './words';
import { CompareView } from '../compare/CompareView';
import { DoubtNote } from '../parts/DoubtNote';
import { PickList } from '../parts/PickList';
import { PlanForm } from '../plans/PlanForm';
import { PlansView } from '../plans/PlansView';
import { PlanView } from '../plans/PlanView';
import { Exchange } from '../rig/Exchange';
import { Annotate } from '../trial/Annotate';
import { othersWords } from '../trial/RigDuring';
import { TelemetryStrip, type Sample } from '../trial/TelemetryStrip';

const router = {
  push: () => undefined,
  replace: () => undefined,
  refresh: () => undefined,
  back: () => undefined,
  forward: () => undefined,
  prefetch: () => undefined,
} as unknown as NonNullable<ContextType<typeof AppRouterContext>>;
const markupOf = (element: ReactElement) =>
  renderToStaticMarkup(<AppRouterContext.Provider value={router}>{element}</AppRouterContext.Provider>);
/** What a person reads of a drawn page. */
const textOf = (element: ReactElement) =>
  markupOf(element)
    .replace(/<[^>]+>/g, ' ')
    .replaceAll('&#x27;', "'")
    .replaceAll('&quot;', '"')
    .replace(/[\u2009\u202f\s]+/g, ' ')
    .trim();

const format = {
  container: 'MOV',
  codec: 'ProRes',
  profile: 'Standard',
  bitDepth: 10,
  chroma: '4:2:2',
  width: 1920,
  height: 1080,
  rate: rational(24),
};
const brief: Brief = {
  question: 'Which volume?',
  cameras: [
    {
      id: 'c1',
      name: 'Wall camera',
      contentHash: 'h1',
      clipName: 'wall.mov',
      format,
      meanBitsPerSecond: 180e6,
      peakBitsPerSecond: 187e6,
      hoursPerDay: 2,
    },
  ],
  days: 10,
  streams: 1,
  looks: 0,
  scale: 'full',
  speed: 1,
  margin: 0.25,
  grade: 'workable',
  budget: 5_000,
  places: [
    { rigId: 'here', volumeId: 'v1', price: null },
    { rigId: 'quoin', volumeId: 'v2', price: 4_200 },
  ],
  cardBytesPerSecond: 104e6,
};
const judged = (change: Partial<Judgement>): Judgement => ({
  basis: 'measured',
  grade: 'solid',
  headroom: 0.35,
  underMargin: false,
  limit: 'slowest stage',
  meets: true,
  cure: null,
  missing: [],
  isDoubtful: false,
  ...change,
});
const mapCell = (
  rigId: string,
  volumeId: string,
  change: Partial<Judgement>,
  more: Partial<MapCell> = {},
): MapCell => ({
  rowId: 'h1',
  rigId,
  volumeId,
  judgement: judged(change),
  runs: [],
  decodeTrialId: null,
  volumeTrialId: null,
  underWay: null,
  failed: null,
  cannot: null,
  ...more,
});
const place = (rigId: string, volumeId: string, name: string, change: Partial<MapPlace> = {}): MapPlace => ({
  rigId,
  rigName: rigId === 'here' ? 'Slipway' : 'Quoin (simulated)',
  imported:
    rigId === 'here' ? null : { simulated: true, softwareVersion: 'x', exportedAt: '2026-11-02T09:00:00Z' },
  volumeId,
  name,
  kind: 'internal',
  simulated: rigId !== 'here',
  price: rigId === 'here' ? null : 4_200,
  rate: null,
  ...change,
});
const row = {
  id: 'h1',
  cameraId: 'c1',
  role: 'original' as const,
  name: 'Wall camera',
  format,
  formatLabel: 'ProRes Standard 10-bit 4:2:2, 1920x1080',
  meanBitsPerSecond: 180e6,
  peakBitsPerSecond: 187e6,
};
const run = {
  trialId: 't1',
  grade: 'solid' as const,
  dropped: 0,
  slots: 192,
  slowestMs: 30,
  cures: [],
  doubt: null,
};

function decisionOf(cells: readonly MapCell[]): Decision {
  const places = [
    place('here', 'v1', 'Edit room internal'),
    place('quoin', 'v2', 'Store', { rate: { value: 115e6, from: 'model', trialId: null } }),
  ];
  const facts = places.map((one) => ({
    place: { rigId: one.rigId, volumeId: one.volumeId, price: one.price },
    name: one.name,
    modelled: one.imported !== null,
    freeBytes: 20e12,
    currency: 'EUR',
    writeBytesPerSecond: 100e6,
    cells: new Map(
      cells
        .filter(({ volumeId }) => volumeId === one.volumeId)
        .map(({ rowId, judgement }) => [rowId, judgement]),
    ),
  }));
  return {
    sentence: 'Store with originals for 4 200: solid at full scale.',
    rows: [row],
    places,
    cells,
    setUps: rankSetUps(brief, [row], facts, () => new Map(), 104e6),
    withoutProxy: [{ name: 'Wall camera', clipId: 'k1' }],
    cardBytesPerSecond: 104e6,
  };
}
const decision = decisionOf([
  mapCell('here', 'v1', {
    basis: 'unknown',
    grade: null,
    headroom: null,
    meets: null,
    missing: ['volume', 'decoding'],
  }),
  mapCell('quoin', 'v2', {}, { runs: [run], cannot: 'It can be measured only on Quoin.' }),
]);
const page = {
  brief: {
    id: 'b1',
    rigId: 'here',
    name: 'Harbour wall',
    document: brief,
    imported: false,
    demo: 0,
    createdAt: new Date(0),
    updatedAt: new Date(0),
  },
  decision,
};

describe('the decision map', () => {
  test('says grade, headroom and what each cell rests on; an unknown one offers its run, a foreign one does not', () => {
    const text = textOf(
      <DecisionMap decision={decision} briefId="b1" actions={{ measure: () => undefined, busy: false }} />,
    );
    for (const part of [
      'Slipway Edit room internal rate not measured',
      'Quoin (simulated) Store 115 MB/s by model costs 4 200 EUR simulated',
      'unknown volume and decoding not measured Measure it',
      'solid 35 % to spare model run, 1 run',
      'Full edge: measured.',
    ])
      expect(text).toContain(part);
    expect(text.match(/Measure it/g)).toHaveLength(1);
  });

  test('a modelled run has a broken edge, a measured one a full edge, and failing or waiting cells say so', () => {
    const cells = [
      mapCell(
        'here',
        'v1',
        { grade: 'stalled', headroom: 0.1, meets: false, isDoubtful: true },
        { runs: [run], underWay: 'p1' },
      ),
      mapCell('quoin', 'v2', {}, { failed: { trialId: 't9', outcome: 'The decoder failed.' } }),
    ];
    const markup = markupOf(<DecisionMap decision={decisionOf(cells)} briefId="b1" />);
    expect(markup.match(/border-dashed border-l-slot/g)).toHaveLength(1);
    const text = textOf(<DecisionMap decision={decisionOf(cells)} briefId="b1" />);
    for (const part of [
      'stalled enough on average only measured, 1 run in doubt does not meet the brief measuring now',
      'its newest run failed',
    ])
      expect(text).toContain(part);
    expect(markup).toContain(
      'aria-label="Wall camera from Edit room internal: stalled, measured, 10\u202f% to spare. Open the evidence"',
    );
  });

  test('holds with a single cell by arithmetic and with forty columns', () => {
    expect(
      textOf(
        <DecisionMap
          decision={decisionOf([
            mapCell('quoin', 'v2', { basis: 'arithmetic', headroom: 3.2, limit: 'volume' }),
          ])}
          briefId="b1"
        />,
      ),
    ).toContain('solid 4.2x the need by arithmetic');
    expect(
      textOf(
        <DecisionMap
          decision={decisionOf([mapCell('quoin', 'v2', { headroom: 0.08, underMargin: true })])}
          briefId="b1"
        />,
      ),
    ).toContain('solid 8 % to spare under the margin');
    expect(
      textOf(<SetUpTable setUps={decisionOf([mapCell('quoin', 'v2', { headroom: 0.08 })]).setUps} />),
    ).toContain('8 % to spare under the margin');
    const many = Array.from({ length: 40 }, (_, at) =>
      place('here', `w${at}`, `A very long name of a volume in the edit room, number ${at}`),
    );
    expect(
      markupOf(<DecisionMap decision={{ ...decision, places: many, cells: [] }} briefId="b1" />).match(
        /scope="col"/g,
      ),
    ).toHaveLength(41);
  });
});

test('a brief answers first, then tells its question, its map and its set-ups', () => {
  const text = textOf(<BriefView initial={page} rigId="here" />);
  for (const part of [
    'Which volume?',
    'Store with originals for 4 200',
    'Wall camera 2 h a day for 10 days; one stream must be workable or better at full scale, 25 % margin, budget 5 000 EUR; cards give 104 MB/s',
    'Without a proxy: Wall camera. Make one to have it in the map.',
    'Set-ups, best first',
  ])
    expect(text).toContain(part);
  const setUps = textOf(<SetUpTable setUps={decision.setUps} />);
  for (const part of [
    '1 Store originals meets the brief solid computed 35 % to spare 4 200 EUR 1.6 TB room for 123.5 days',
    'not known yet',
    '27 min none',
    'Not known: how Wall camera plays from Edit room internal; what Edit room internal costs.',
  ])
    expect(setUps).toContain(part);
  expect([daySpan(null), daySpan(95), daySpan(8_100)]).toEqual([
    'not known',
    '2\u202fmin',
    '2\u202fh 15\u202fmin',
  ]);
});

test('the form of a brief keeps a camera whose clip has left the library, and offers rigs apart', () => {
  const offer: Offer = {
    rigId: 'here',
    clips: [],
    volumes: [
      {
        rigId: 'here',
        rigName: 'Slipway',
        imported: null,
        volumeId: 'v1',
        name: 'Edit room',
        kind: 'internal',
        price: null,
        simulated: false,
      },
      {
        rigId: 'quoin',
        rigName: 'Quoin',
        imported: { simulated: true, softwareVersion: 'x', exportedAt: '' },
        volumeId: 'v2',
        name: 'Store',
        kind: 'network',
        price: 4_200,
        simulated: true,
      },
    ],
  };
  const text = textOf(<BriefForm offer={offer} id="b1" name="Harbour wall" brief={brief} />);
  for (const part of [
    'as saved; its clip is no longer in the library',
    'Slipway, this rig',
    'Quoin, imported simulated',
    'Save',
  ])
    expect(text).toContain(part);
  expect(textOf(<FirstRun volumes={[{ id: 'v1', name: 'Edit room' }]} rigId="here" />)).toMatch(
    /1 Which folder holds the clips\?.*Or a volume that is here already: Edit room.*5 Your decision map/,
  );
});

test('a report holds question, answer, evidence, conditions and method', () => {
  const identity = {
    host: 'h',
    processor: 'Two-core processor',
    physicalCores: 2,
    logicalCores: 2,
    memoryBytes: 8 * 2 ** 30,
    graphics: [],
    system: 'Debian 12',
    kernel: '6.1',
    machine: 'virtual',
  };
  const text = textOf(
    <ReportView
      report={{
        ...page,
        printedAt: new Date(0).toISOString(),
        evidence: [],
        rigs: [
          { id: 'here', name: 'Slipway', imported: null, identity },
          {
            id: 'quoin',
            name: 'Quoin',
            imported: { simulated: true, softwareVersion: 'x', exportedAt: '' },
            identity,
          },
        ],
      }}
    />,
  );
  for (const part of [
    'Which volume?',
    'Answer Store with originals',
    'Slipway, this rig: Two-core processor, 2 cores, 8.0 GiB',
    'Quoin, imported, simulated: computed by a model, not measured',
    'Grades: solid without a drop',
  ])
    expect(text).toContain(part);
});

const side = (
  name: string,
  values: readonly number[],
  more: Readonly<Record<string, string>> = {},
): Comparison['sides'][number] => ({
  id: `t.${name}`,
  kind: 'playback',
  name,
  simulated: name === 'Store',
  conditions: { Test: 'playback', Volume: name, ...more },
  repeats: values.map((value, at): Side['repeats'][number] => ({
    trialId: `${name}${at}`,
    href: `/trials/${name}${at}`,
    at: new Date(0).toISOString(),
    values: { decodeTime: value },
    excluded: null,
    doubt: at === 0 ? { word: 'disturbed' as const, reason: 'others moved 40 MB/s on disks' } : null,
  })),
});

function comparisonOf(sides: Comparison['sides'], asked: string): Comparison {
  const metric = metrics.find(({ id }) => id === 'decodeTime')!;
  return {
    sides,
    differences: differences(sides, asked),
    asked,
    tests: ['playback', 'scrub'],
    test: 'playback',
    rows: compareAll(sides, [metric]),
    least: 0.02,
    empty: ['Kite matrix'],
  };
}

test('a comparison tells the answer both ways, warns of what else differs, and lists every repeat', () => {
  const sides = [
    side('Edit room', [100, 101, 99, 100, 102], { 'Late frames': 'hold time' }),
    side('Store', [50, 51, 50, 49, 50], { 'Late frames': 'every frame', 'Volume model': '1 Gb/s' }),
  ];
  const text = textOf(<CompareView comparison={comparisonOf(sides, 'Volume')} tokens={['t.a', 't.b']} />);
  for (const part of [
    'Store: 2.00x as fast as Edit room, 50 % less time (95 % interval',
    '5 and 5 repeats)',
    'Besides volume they differ in 1 more thing: late frames',
    'Volume model comes with volume',
    'left out: Kite matrix',
    'better',
    'disturbed: others moved 40 MB/s on disks',
    'Each of 10 repeats',
  ])
    expect(text).toContain(part);
  const alike = textOf(
    <CompareView
      comparison={comparisonOf([side('Edit room', [100, 101]), side('Store', [50, 51])], 'Volume')}
      tokens={['t.a', 't.b']}
    />,
  );
  expect(alike).toContain('too few repeats to tell (2 and 2 repeats; 5 each make an interval)');
  expect(alike).toContain('They differ in volume and in nothing else that was recorded');
  expect(
    textOf(<CompareView comparison={comparisonOf([side('Edit room', [100])], 'Volume')} tokens={['t.a']} />),
  ).toContain('Add another side to compare it with');
});

test('a comparison of pairs names each base, and says what decides where the first figure does not', () => {
  const form = (Form: string, Footage: string, decode: number) => ({
    ...side(
      `${Form} ${Footage}`,
      [1, 2, 3, 4, 5].map((at) => decode + at / 10),
      { Volume: 'Store', Form, Footage },
    ),
    simulated: false,
  });
  const sides = [
    form('originals', 'Wall', 100),
    form('proxies', 'Wall', 20),
    form('originals', 'Kite', 60),
    form('proxies', 'Kite', 30),
  ].map((one) => ({
    ...one,
    repeats: one.repeats.map((repeat) => ({ ...repeat, values: { ...repeat.values, dropped: 0 } })),
  }));
  const found = differences(sides, 'Form');
  const rows = compareAll(
    sides,
    ['dropped', 'decodeTime'].map((id) => metrics.find((one) => one.id === id)!),
    basesOf(sides, found),
  );
  const text = textOf(
    <CompareView
      comparison={{ ...comparisonOf(sides, 'Form'), differences: found, rows }}
      tokens={['p.1']}
    />,
  );
  for (const part of [
    'proxies Wall: no difference shown. 0 % against 0 % of originals Wall',
    'They do differ in decoding, per second of media',
    'Besides form they differ in 1 more thing: footage',
    'Only sides are compared that differ in form alone.',
    'proxies Kite against originals Kite',
    'originals Kite base',
  ])
    expect(text).toContain(part);
  expect(text).not.toContain('proxies Kite against originals Wall');
});

const step = (position: number, change: Partial<PlanPage['steps'][number]>): PlanPage['steps'][number] => ({
  planId: 'p1',
  position,
  cell: 0,
  repeat: position,
  status: 'done',
  trialId: `t${position}`,
  attempts: 1,
  outcome: null,
  inDoubt: false,
  startedAt: null,
  endedAt: null,
  headline: {
    href: `/trials/t${position}`,
    grade: 'solid',
    text: 'All 192 slots were shown.',
    values: { dropped: 0 },
    excluded: null,
    doubt: null,
  },
  ...change,
});
const planPage = (status: PlanPage['plan']['status'], steps: PlanPage['steps']): PlanPage => ({
  plan: {
    id: 'p1',
    rigId: 'here',
    name: 'Originals or proxies',
    question: 'original-or-proxy',
    settings: {
      subjects: [],
      volumeIds: [],
      forms: ['originals'],
      scales: ['full'],
      tests: ['playback'],
      repeats: 3,
      order: 'random',
      seed: 7,
      warm: false,
      policy: 'hold-time',
    },
    status,
    imported: false,
    demo: 0,
    createdAt: new Date(0),
    startedAt: null,
    endedAt: null,
  },
  from: 'Slipway',
  msLeft: 65_000,
  steps,
  cells: [
    {
      planId: 'p1',
      cell: 0,
      address: { test: 'playback', subject: null, volumeId: null, form: 'originals', scale: 'full' },
      labels: {
        what: 'TW_WALL_0107.mov',
        volume: 'Store',
        simulated: true,
        form: 'originals',
        scale: 'full',
        format: null,
      },
      expectedMs: 10_000,
      kind: 'playback',
    },
  ],
});

describe('a matrix', () => {
  test('running: how far, time left, what runs now, and what can be skipped', () => {
    const text = textOf(
      <PlanView
        initial={planPage('running', [
          step(0, {}),
          step(1, { status: 'running' }),
          step(2, { status: 'waiting', trialId: null, headline: null }),
        ])}
      />,
    );
    for (const part of [
      '1 of 3 runs ended, about 1:05 left',
      'random order, seed 7, cold',
      'Now: Playback, TW_WALL_0107.mov from Store, repeat 2',
      'Skip this run',
      'Pause',
      'Cancel',
      'Store simulated',
      'solid 0 % Dropped slots, 1 run Skip',
    ])
      expect(text).toContain(part);
  });

  test('ended: the worst grade of what counts, disturbed and missing runs to be made up for', () => {
    const bad = {
      href: '/trials/t1',
      grade: 'rough' as const,
      text: '12 of 192 slots dropped',
      values: { dropped: 6.2 },
      excluded: null,
      doubt: { word: 'disturbed' as const, reason: 'others' },
    };
    const markup = markupOf(
      <PlanView
        initial={planPage('done', [
          step(0, {}),
          step(1, { inDoubt: true, headline: bad }),
          step(2, {
            status: 'failed',
            headline: { ...bad, grade: null, values: {}, text: 'The volume went away.' },
          }),
          step(3, { headline: { ...bad, grade: 'stalled', excluded: 'the cable was loose' } }),
        ])}
      />,
    );
    const text = markup.replace(/<[^>]+>/g, ' ').replace(/[\u2009\u202f\s]+/g, ' ');
    for (const part of [
      'All 4 runs ended',
      'Repeat 1 in doubt',
      'Make up 1 missing',
      'Run it all again',
      'rough 3.1 % Dropped slots, 2 runs',
    ])
      expect(text).toContain(part);
    expect(markup).toContain('aria-label="Repeat 3: failed. The volume went away."');
    expect(
      textOf(
        <PlanView
          initial={planPage('paused', [step(0, { status: 'waiting', trialId: null, headline: null })])}
        />,
      ),
    ).toContain('Paused after 0 of 1 runs; about 1:05 left');
  });

  test("the form takes its question's conditions, and the list says how far each is", () => {
    const choices = {
      clips: [
        {
          id: 'k1',
          name: 'TW_WALL_0107.mov',
          also: ['WALL_COPY.mov'],
          proxy: false,
          format,
          volumeId: 'v1',
          volumeName: 'Edit room',
        },
      ],
      timelines: [{ id: 'm1', name: 'Reel one' }],
      volumes: [
        { id: 'v1', name: 'Edit room', simulated: false },
        { id: 'v2', name: 'Store', simulated: true },
      ],
      devices: [],
    };
    const markup = markupOf(<PlanForm choices={choices} wanted="clip:k1" />);
    expect(markup.match(/type="checkbox"[^>]*checked/g)).toHaveLength(1 + 1 + 2 + 1 + 2 + 1); // clip, volume, tests, form, scales, way past the cache
    expect(textOf(<PlanForm choices={choices} wanted="clip:k1" />)).toContain(
      'Plays and scrubs the clips from one volume at full and half scale.',
    );
    expect(textOf(<PlanForm choices={choices} wanted="clip:k1" />)).toContain(
      'TW_WALL_0107.mov, also WALL_COPY.mov',
    );
    const { plan } = planPage('running', []);
    const row = { ...plan, rigName: 'Slipway', cells: 4, steps: 12, ended: 5, failed: 1 };
    expect(textOf(<PlansView initial={[row]} />)).toMatch(/Original or proxy\? running 4 5 of 12 1/);
    const came = { ...row, imported: true, rigName: 'Quoin' };
    expect(textOf(<PlansView initial={[came]} />)).toContain('from Quoin, imported');
    expect(textOf(<PlansView initial={[]} />)).toContain('No series or matrix yet');
  });
});

test('telemetry stands in lanes; those the system tells nothing of are left out', () => {
  const sample = (at: number, change: Partial<Sample> = {}): Sample => ({
    trialId: 't',
    at: new Date(at),
    trialLoad: 0.4,
    othersLoad: 0.2,
    freeMemoryBytes: 1,
    trialDiskBytesPerSecond: 20e6,
    othersDiskBytesPerSecond: 60e6,
    networkBytesPerSecond: null,
    linkBytesPerSecond: null,
    trialMovedBytesPerSecond: null,
    lostShare: 0,
    siblingShare: 0,
    heldShare: 0,
    clockGigahertz: null,
    temperatureCelsius: null,
    throttled: null,
    ...noGraphics,
    pulseUs: null,
    ...change,
  });
  const text = textOf(
    <TelemetryStrip
      samples={[sample(0), sample(500), sample(1_000)]}
      referenceUs={100}
      fromMs={0}
      toMs={1_000}
    />,
  );
  expect(text).toBe('processor 100 % disks 80.0 MB/s');
  expect(markupOf(<TelemetryStrip samples={[sample(0)]} referenceUs={null} fromMs={0} toMs={1_000} />)).toBe(
    '',
  );
  expect(
    othersWords({
      othersMean: 0,
      others: [
        { name: 'sync', share: 0.31, diskBytesPerSecond: 40e6 },
        { name: 'shell', share: 0.02, diskBytesPerSecond: 0 },
      ],
    }),
  ).toMatch(/^sync 31.% of a core, 40.0.MB\/s on disks; shell 2.% of a core$/);
  expect(
    textOf(
      <DoubtNote load={{ othersMean: 0.4, others: [{ name: 'sync', share: 0.8, diskBytesPerSecond: 0 }] }} />,
    ),
  ).toMatch(/^Disturbed: other processes took 40 % of all cores, most by sync\. Repeat it/);
  const slow = markupOf(
    <TelemetryStrip
      samples={[100, 104, 150, 170, 160].map((pulseUs, at) => sample(at * 500, { pulseUs }))}
      referenceUs={100}
      fromMs={0}
      toMs={2_000}
    />,
  );
  expect(slow).toContain('up to 1.70x as long. 1 slow stretch.');
  expect(slow.match(/data-testid="slow-stretch" x="250" width="750"/)).not.toBeNull();
  const overNetwork = [
    { linkBytesPerSecond: 30e6, trialMovedBytesPerSecond: 10e6 },
    { linkBytesPerSecond: 0, trialMovedBytesPerSecond: 20e6 },
  ].map((change, at) => sample(at * 500, change));
  const server = markupOf(
    <TelemetryStrip samples={overNetwork} referenceUs={null} fromMs={0} toMs={500} />,
  ).slice(-2_000);
  expect(server).toContain('passed the interface to the server, over the run, up to 30.0\u202fMB/s');
  // The line is what passed, not that on top of what was read: it ends at the bottom, the filled part does not.
  expect(/fill="none" d="[^"]*L1000,29"|d="[^"]*L1000,29" fill="none"/.exec(server)).not.toBeNull();
  const graphics = [
    { graphicsLoad: 0.2 },
    { graphicsLoad: 0.6, trialGraphicsLoad: 0.5, trialEncodeEngineLoad: 0.9 },
    { trialGraphicsMemoryBytes: 300e6, graphicsMemoryBytes: 800e6 },
  ].map((change, at) => sample(at * 500, change));
  expect(textOf(<TelemetryStrip samples={graphics} referenceUs={null} fromMs={0} toMs={1_000} />)).toMatch(
    /^processor 100 % disks 80\.0 MB\/s graphics 100 % encode engine 100 % graphics memory 763.MiB$/,
  );
  const hot = [
    { clockGigahertz: 3.4, temperatureCelsius: 61 },
    { clockGigahertz: 3.4, temperatureCelsius: 92, throttled: false },
    { clockGigahertz: 2.1, temperatureCelsius: 97, throttled: true, heldShare: 0.4 },
  ].map((change, at) => sample(at * 500, change));
  const lanes = <TelemetryStrip samples={hot} referenceUs={null} fromMs={0} toMs={1_000} />;
  const told = textOf(lanes).replaceAll('The processor slowed itself down here, for heat or power. ', '');
  expect(told).toBe(
    'processor 100 % disks 80.0 MB/s held back 100 % clock 2.10 to 3.40 GHz temperature 61 to 97 °C',
  );
  expect(markupOf(lanes).match(/data-testid="throttled" x="500" width="500"/g)).toHaveLength(2);
});

test('a ribbon that prints shows each drop by its cause and joins what is alike', () => {
  const state = Uint8Array.from({ length: 20 }, (_, slot) =>
    slot === 5 || slot === 6 ? slotState.dropped : slotState.shown,
  );
  const charge = Uint8Array.from({ length: 20 }, (_, slot) =>
    slot === 5 ? causeBit.read : slot === 6 ? causeBit.decode | causeBit.process : 0,
  );
  const markup = markupOf(<RibbonSvg data={{ slots: 20, state, charge }} most={20} label="Slots" />);
  expect(markup.match(/fill="var\(--slot\)"/g)).toHaveLength(2);
  expect(markup.match(/fill="url\(#[^)]*-(read|decode|process)\)"/g)).toHaveLength(3);
  expect(markup).toContain('aria-label="Slots"');
  const long = {
    slots: 100_000,
    state: new Uint8Array(100_000).fill(slotState.dropped),
    charge: new Uint8Array(100_000).fill(causeBit.read),
  };
  expect(
    markupOf(<RibbonSvg data={long} most={100_000} label="Hour" />).match(/<rect/g)!.length,
  ).toBeLessThan(520);
});

test('lists to pick from, notes on a result, and rigs that came in', () => {
  expect(
    textOf(
      <PickList
        label="Volumes"
        items={[]}
        chosen={new Set()}
        onChange={() => undefined}
        empty="No volume yet."
      />,
    ),
  ).toBe('Volumes Volumes 0 of 0 No volume yet.');
  expect(
    textOf(
      <PickList
        label="Clips"
        items={Array.from({ length: 500 }, (_, at) => ({ id: `${at}`, name: `clip ${at}` }))}
        chosen={new Set(['3'])}
        onChange={() => undefined}
        empty=""
      />,
    ),
  ).toContain('1 of 500');
  expect(
    textOf(<Annotate trialId="t" annotation={{ note: '', excluded: 'the cable was loose' }} />),
  ).toContain('This result does not count');
  expect(textOf(<Exchange others={[]} reload={() => Promise.resolve()} />)).toContain(
    'Importing the same bundle twice changes nothing',
  );
});
