import { AppRouterContext } from 'next/dist/shared/lib/app-router-context.shared-runtime';
import type { ContextType, ReactElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import type { DecodeStreamsResult, RateResult, SupportResult } from '@/core/decode/result';
import type { ClipIdentity } from '@/core/media/identity';
import { clipUses } from '@/core/media/uses';
import { clipWarnings } from '@/core/media/warnings';
import type { DecodeTrial, TrialRow } from '@/db/kinds';
import type { RenditionItemRow } from '@/db/queries/renditions';
import type { SupportPage } from '@/server/library/decode';
import type { LibraryClip, LibraryPage } from '@/server/library/clipList';
import type { ClipPage } from '@/server/library/media';
import type { RenditionsPage } from '@/server/library/renditions';
import { paintFrames, paintRates, secondRates } from '../charts/paintFrames';
import { comparedFormats, CompareFormats } from '../decode/CompareFormats';
import { DecodeStreamsFigures } from '../decode/DecodeStreamsFigures';
import { TrialView } from '../trialPage/TrialView';
import { DecodeView } from '../decode/DecodeView';
import { SupportView } from '../decode/SupportView';
import { ClipView } from './ClipView';
import { line, listPart, pageOf, plainConditions, plainRow } from '../testing/trialRows';
import { LibraryView } from './LibraryView';
import { RenditionsView } from '../renditions/RenditionsView';

const router = {
  push: () => undefined,
  replace: () => undefined,
  refresh: () => undefined,
  back: () => undefined,
  forward: () => undefined,
  prefetch: () => undefined,
} as unknown as NonNullable<ContextType<typeof AppRouterContext>>;

/** What a person reads of a drawn page. */
function textOf(element: ReactElement): string {
  const markup = renderToStaticMarkup(<AppRouterContext value={router}>{element}</AppRouterContext>);
  return markup
    .replace(/<[^>]+>/g, ' ')
    .replaceAll('&#x27;', "'")
    .replaceAll('&quot;', '"')
    .replace(/[\u2009\u202f\s]+/g, ' ')
    .trim();
}

const format = {
  container: 'MP4',
  codec: 'H.264',
  profile: 'High',
  bitDepth: 8,
  chroma: '4:2:0',
  width: 1920,
  height: 1080,
  rate: { num: 25, den: 1 },
};
const structure = {
  intra: false,
  keyInterval: { min: 25, mean: 25, max: 25 },
  hasBFrames: true,
  reorderDepth: 1,
  openGop: true,
  referenceDepth: 4,
};
const identity: ClipIdentity = {
  codecString: 'avc1.640028',
  pixelFormat: 'yuv420p',
  level: '4.0',
  pixelAspect: { num: 1, den: 1 },
  scan: 'top field first',
  timing: { constant: false, shortestMs: 33.3, longestMs: 50, missing: 0, duplicate: 0 },
  dropFrame: false,
  colour: { primaries: 'BT.2020', transfer: 'PQ (ST 2084)', matrix: null, range: null },
  rotation: 90,
  alpha: false,
  audio: [{ codec: 'AAC', channels: 2, layout: 'stereo', samplesPerSecond: 48_000, bitDepth: null }],
  indexAtEnd: true,
  edits: null,
  missingFrames: 0,
  decodeProblem: null,
};

const clip = {
  id: 'c1',
  volumeId: 'v1',
  path: 'kite/TW_KITE_0031.mp4',
  status: 'ready',
  problem: null,
  format,
  structure,
  identity,
  frames: 200,
  startTimecode: '09:30:05:00',
  meanBitsPerSecond: 25e6,
  peakBitsPerSecond: 31e6,
  sizeBytes: 26e6,
  contentHash: 'abcdef0123456789abcdef',
  volumeName: 'Edit room internal',
  simulated: false,
  footageHand: null,
  indexMs: 200,
} as unknown as ClipPage['clip'];

const member = {
  id: 'c1',
  path: clip.path,
  volumeName: clip.volumeName,
  simulated: false,
  format,
  meanBitsPerSecond: 25e6,
  sizeBytes: 26e6,
  status: 'ready',
  role: 'original',
  footageHand: null,
  opening: {
    firstByteMs: 2.5,
    indexMs: 8,
    pictureMs: 61,
    trialId: 'o1',
    at: new Date(0),
    perhapsWarm: false,
  },
} as const;
const page: ClipPage = {
  clip,
  devices: [],
  warnings: clipWarnings(format, structure, 200, identity),
  uses: clipUses({ status: 'ready', hasPackets: true, hasDecoder: true }),
  preview: {
    tiles: 12,
    tileWidth: 160,
    tileHeight: 90,
    stripMs: 812,
    audioMs: 60,
    problem: null,
    hasStrip: true,
    peaks: [1, 200, 3],
  },
  footage: { id: 'f1', name: 'TW_KITE_0031', byHand: true },
  renditions: [
    member,
    {
      ...member,
      id: 'c2',
      path: 'proxies/TW_KITE_0031_proxy.mov',
      role: 'rendition',
      simulated: true,
      volumeName: 'Shuttle SSD',
    },
  ],
  made: null,
};

test('a clip’s page answers first, then warns, then tells everything in a technician’s words', () => {
  const text = textOf(<ClipView initial={page} list={listPart()} />);
  expect(text).toContain(
    'H.264 High 8-bit 4:2:0, 1920x1080, 25 per second: Long-GOP, key every 25, B-frames, 200 frames (8.0 s), 25.0 Mb/s mean, 31.0 Mb/s in the worst second.',
  );
  for (const part of [
    'variable rate . Frames last 33.3 to 50.0 ms',
    'open GOP',
    'turned 90°',
    'index at end',
    'interlaced, top field first',
    'PQ (ST 2084)',
    'avc1.640028',
    '1: stereo AAC, 48 kHz',
    'Import cost: pictures and fingerprint 812 ms, audio peaks 60.0 ms',
    'grouped by hand',
    'this clip Edit room internal 2.50 ms 8.00 ms 61.0 ms',
    'Footage TW_KITE_0031: 2 clips',
    'rendition proxies/TW_KITE_0031',
  ])
    expect(text).toContain(part);
  expect(text).toContain('Shuttle SSD simulated');
});

test('a file that cannot be decoded is listed with what is known, why, and what it serves for', () => {
  const problem = 'Its codec "Xr1w" is not known here: a closed camera raw form.';
  const text = textOf(
    <ClipView
      list={listPart()}
      initial={{
        ...page,
        clip: { ...clip, status: 'unplayable', problem },
        uses: clipUses({ status: 'unplayable', hasPackets: true, hasDecoder: false }),
        preview: null,
      }}
    />,
  );
  expect(text).toContain(problem);
  expect(text).toContain('No : Decoding and playback. There is no decoder for it here.');
  expect(text).toContain('Yes : Rates and planning.');
  expect(text).not.toContain('Measure decode rate');
  const nothing = textOf(
    <ClipView
      list={listPart()}
      initial={{
        ...page,
        clip: {
          ...clip,
          status: 'unplayable',
          problem,
          format: null,
          structure: null,
          identity: null,
          frames: null,
        },
        warnings: [],
        uses: clipUses({ status: 'unplayable', hasPackets: false, hasDecoder: true }),
        preview: null,
      }}
    />,
  );
  expect(nothing).toContain('This file could not be read as a clip');
});

const listed = (id: string, change: Partial<LibraryClip> = {}) =>
  ({
    ...clip,
    id,
    path: `kite/${id}.mp4`,
    footageName: 'TW_KITE_0031',
    renditions: 2,
    role: 'original',
    scan: 'progressive',
    constantRate: true,
    transfer: null,
    audioTracks: 1,
    warnings: [],
    ...change,
  }) as unknown as LibraryClip;

test('the library names what cannot be decoded, and says how many rows there are', () => {
  const volumes = [{ id: 'v1', name: 'Edit room internal', simulated: false, writable: true }];
  const library = (rows: LibraryPage['rows'], change: Partial<LibraryPage> = {}) => {
    const first = {
      total: rows.length,
      clips: rows.length,
      known: rows.length,
      unplayable: 0,
      page: 1,
      size: 100,
      rows,
      ...change,
    };
    return textOf(<LibraryView first={first} asked={{}} volumes={volumes} />);
  };
  const text = library(
    [
      {
        ...listed('a', { warnings: ['variable rate'], renditions: 4 }),
        others: [
          listed('a2', { role: 'copy' }),
          listed('a3', { role: 'copy' }),
          listed('a4', { role: 'rendition', contentHash: 'other' }),
        ],
      },
      {
        ...listed('b', {
          status: 'unplayable',
          renditions: 1,
          problem: 'Cut short: the last 3 frames lie beyond the end of the file.',
        }),
        others: [],
      },
    ],
    { clips: 5, unplayable: 1 },
  );
  expect(text).toContain('1 cannot be decoded');
  expect(text).toContain('variable rate');
  expect(text).toContain('Cut short: the last 3 frames');
  expect(text).toContain('2 rows, 5 files');
  // What lies elsewhere is folded under its footage.
  expect(text).toContain('+2 places, 1 rendition');
  expect(text).not.toContain('kite/a2.mp4');
  expect(library([])).toContain('No clips yet');
  expect(library([], { known: 3 })).toContain('No clip matches.');
  const page = Array.from({ length: 100 }, (_, at) => ({ ...listed(`TW_${at}`), others: [] }));
  const many = library(page, { total: 5_000, clips: 7_000 });
  expect(many).toContain('5 000 rows, 7 000 files');
  expect(many).toContain('1 to 100 of 5 000');
});

const rate: RateResult = {
  kind: 'decode-rate',
  decoder: 'h264',
  one: {
    framesPerSecond: { median: 42.6, low: 41, high: 44 },
    cpuUsPerFrame: 23_000,
    passes: 3,
    threads: 1,
    threadKind: 'none',
  },
  all: {
    framesPerSecond: { median: 71.1, low: 70, high: 73 },
    cpuUsPerFrame: 26_000,
    passes: 3,
    threads: 2,
    threadKind: 'frame by frame',
  },
  firstFrameMs: 38,
  byType: [
    { type: 'I', frames: 8, p50Ms: 41, p95Ms: 44 },
    { type: 'B', frames: 90, p50Ms: 20, p95Ms: 24 },
  ],
  seeks: [
    { distance: 0, us: 40_000 },
    { distance: 20, us: 440_000 },
  ],
  seekLine: { baseMs: 40, perFrameMs: 20 },
  memoryBytes: 60e6,
  msPerMegapixel: 11.3,
  msPerMegabit: 22,
};
const support: SupportResult = {
  kind: 'decode-support',
  verdict: 'not accelerated',
  onDevice: 0,
  check: 'silent fallback',
  decoder: 'prores',
  parts: [
    {
      cores: 'one',
      pairs: [
        { software: 23, device: 23.4 },
        { software: 24, device: 23 },
        { software: 23.5, device: 23.6 },
      ],
      ratio: { value: 1.01, low: 0.96, high: 1.02 },
      verdict: 'not accelerated',
      cpuUsPerFrame: { software: 40_000, device: 41_000 },
    },
  ],
};
const streams: DecodeStreamsResult = {
  kind: 'decode-streams',
  clean: 2,
  missed: 3,
  arithmetic: null,
  steps: [
    { streams: 1, frames: 100, missed: 0, clean: true, leastSpareUs: 21_000 },
    { streams: 3, frames: 40, missed: 1, clean: false, leastSpareUs: -4_000 },
  ],
};
const device = {
  id: 'stand-in-neap',
  name: 'Neap',
  simulated: true,
  usable: true,
  about: 'Older made-up accelerator.',
};

const trial = (summary: DecodeTrial['summary'], change: object = {}) =>
  ({
    ...plainRow,
    id: 't1',
    clipId: 'c1',
    kind: summary?.kind ?? 'decode-rate',
    outcome: 'The answer.',
    load: { trialMean: 0.7, othersMean: 0.3, othersPeak: 0.5, peakMemoryBytes: null },
    summary,
    settings: { kind: 'decode-rate', passSeconds: 2, passes: 3 },
    subject: {
      clipPath: 'kite/TW_KITE_0031.mp4',
      volumeName: 'Edit room internal',
      contentHash: 'h1',
      format,
      structure,
      frames: 200,
      meanBitsPerSecond: 25e6,
      device: null,
    },
    conditions: plainConditions,
    ...change,
  }) as DecodeTrial;

test('a decode rate shows what a frame of each type and a jump cost, and that it was disturbed', () => {
  const text = textOf(<TrialView initial={pageOf(trial(rate))} />);
  for (const part of [
    'The answer.',
    'Disturbed: other processes took 30 %',
    'All cores, frames/s 71.1',
    '70.0 to 73.0 in 3 passes, 2 threads frame by frame',
    'Streams by arithmetic 2',
    'A jump costs about 40.0 ms and 20.0 ms more for every frame',
    'One core spends 11.3 ms on a megapixel and 22.0 ms on a megabit',
    'pinned to the first core, one thread',
  ])
    expect(text).toContain(part);
});

test('a support verdict shows interval, pairs and the silent fallback, labelled simulated', () => {
  const text = textOf(
    <TrialView
      initial={pageOf(
        trial(support, {
          settings: { kind: 'decode-support', deviceId: device.id, passSeconds: 1, mostPairs: 9 },
          subject: { ...trial(null).subject, device },
        }),
      )}
    />,
  );
  for (const part of [
    'On Neap simulated',
    'Silent fallback: the device was asked for',
    'not accelerated, 1.01x 0.96 to 1.02, 99 % interval of 3 pairs',
    'accelerated above 1.15',
    'slower below 0.87',
    'pair 3 23.5 23.6 1.00x',
  ])
    expect(text).toContain(part);
});

test('a ramp of streams, a failed trial, and one that waits', () => {
  expect(textOf(<DecodeStreamsFigures result={streams} />)).toMatch(
    /Measured 2 streams 3 dropped Arithmetic – measure the decode rate first .* 4\.00 ms late/,
  );
  expect(
    textOf(
      <TrialView
        initial={pageOf(
          trial(null, {
            status: 'hung',
            outcome: 'No frame moved for 15 s, so the trial process was ended.',
          }),
        )}
      />,
    ),
  ).toContain('The trial process hung and was ended No frame moved for 15 s');
  const hung = trial(null, { status: 'hung', outcome: 'No frame moved for 15 s.' });
  const attempts = [
    { id: hung.id, kind: hung.kind, status: hung.status },
    { id: 'next', kind: hung.kind, status: 'running' as const },
  ];
  const text = textOf(<TrialView initial={pageOf(hung, { attempts })} />);
  expect(text).toContain('Attempt 1 of 2: hung , running');
  expect(text).toContain('Try again');
  expect(textOf(<TrialView initial={pageOf(trial(null, { status: 'queued' }))} />)).toContain(
    'Waiting for its turn',
  );
});

test('formats stand on one chart, each content once, cheapest first', () => {
  const trials = [
    trial(rate, { id: 'new' }),
    trial(rate, { id: 'old' }),
    trial(
      { ...rate, msPerMegapixel: 3 },
      { id: 'light', subject: { ...trial(null).subject, contentHash: 'h2' } },
    ),
    trial(null, { id: 'empty', subject: { ...trial(null).subject, contentHash: 'h3' } }),
  ] as TrialRow<'decode-rate'>[];
  expect(comparedFormats(trials).map(({ id }) => id)).toEqual(['light', 'new']);
  expect(textOf(<CompareFormats trials={trials} />)).toContain('One core, per megapixel decoded');
  expect(textOf(<DecodeView initial={{ rates: [], waiting: 0 }} list={listPart()} />)).toContain(
    'No decode trial yet',
  );
  expect(textOf(<DecodeView initial={{ rates: trials, waiting: 2 }} list={listPart([line])} />)).toContain(
    '2 trials to go',
  );
});

test('the matrix tells verdicts by sign and word, offers what is unknown, and names what a device lacks', () => {
  const cell = {
    id: 't',
    verdict: 'accelerated' as const,
    check: 'agrees' as const,
    onDevice: 1,
    ratio: { value: 3.62, low: 3.5, high: 3.7 },
    pairs: 3,
    allRatio: null,
    doubt: null,
  };
  const matrix: SupportPage = {
    devices: [
      device,
      {
        id: 'device-x',
        name: 'x',
        simulated: false,
        usable: false,
        about: 'No device: nothing here. The codec library answered with code -1.',
      },
    ],
    columns: [device],
    waiting: 0,
    rows: [
      {
        formatClass: 'H.264 8-bit 4:2:0, HD 1080',
        clipId: 'c1',
        clipPath: 'a',
        cells: [{ deviceId: device.id, trial: cell, underWay: null }],
      },
      {
        formatClass: 'ProRes 10-bit 4:2:2, HD 1080',
        clipId: 'c2',
        clipPath: 'b',
        cells: [
          {
            deviceId: device.id,
            trial: {
              ...cell,
              verdict: 'not accelerated',
              check: 'silent fallback',
              doubt: 'disturbed' as const,
            },
            underWay: null,
          },
        ],
      },
      {
        formatClass: 'HEVC',
        clipId: 'c3',
        clipPath: 'c',
        cells: [{ deviceId: device.id, trial: null, underWay: null }],
      },
      {
        formatClass: 'VP9',
        clipId: 'c4',
        clipPath: 'd',
        cells: [{ deviceId: device.id, trial: null, underWay: 'queued' }],
      },
    ],
  };
  const text = textOf(<SupportView initial={matrix} />);
  for (const part of [
    '1 of 2 measured pairs of format and device are accelerated; 1 fell back to software without reporting it',
    'Test 1 unknown cell',
    '▲ accelerated 3.62x (3.50–3.70), 3 pairs',
    '= not accelerated',
    'silent fallback',
    'disturbed',
    'waiting',
    'None of the 1 kinds of device that the codec library knows can be used here. No device: nothing here.',
  ])
    expect(text).toContain(part);
  expect(textOf(<SupportView initial={{ ...matrix, rows: [] }} />)).toContain('No format to test yet');
});

const batch: TrialRow<'renditions'> = {
  ...plainRow,
  id: 'j1',
  kind: 'renditions',
  subject: { volumeName: 'Shuttle SSD', simulated: true, clips: 2, firstClip: 'kite/TW_KITE_0031.mp4' },
  settings: { presetId: 'prores-proxy', raster: 'half', volumeId: 'v', folder: 'proxies', lanes: null },
  outcome: '1 of 2 made, 1 failed.',
  record: { lanes: { rates: [30, 41], chosen: 2 }, workedMs: 4_000 },
  summary: { items: 2, made: 1, present: 0, failed: 1 },
};
const item = (change: Partial<RenditionItemRow>): RenditionItemRow => ({
  id: 'i1',
  trialId: 'j1',
  position: 0,
  sourceClipId: 'c1',
  sourcePath: 'kite/TW_KITE_0031.mp4',
  sourceHash: 'h',
  sourceFormat: format,
  sourceFrames: 200,
  sourceBytes: 26e6,
  settingsKey: 'k',
  status: 'made',
  outcome: null,
  detail: null,
  outputPath: 'proxies/TW_KITE_0031_proresproxy_half.mov',
  outputClipId: 'o1',
  work: {
    frames: 200,
    wallUs: 4e6,
    stageUs: { decode: 3.6e6, scale: 1e6, encode: 2e6, write: 1e5 },
    bytes: 13e6,
    pixelFormat: 'yuv422p10le',
    width: 960,
    height: 540,
    decoder: 'h264',
    encoder: 'prores_aw',
    audioTracks: 1,
  },
  frameCheck: {
    method: 'frame code',
    frames: 200,
    same: 200,
    undecided: 0,
    wrong: 0,
    firstWrong: [],
    missing: 0,
  },
  ...change,
});

test('a batch tells time against real time, size, what held it, its proof, and what failed', () => {
  const text = textOf(
    <TrialView
      initial={pageOf(batch, {
        items: [
          item({}),
          item({
            id: 'i2',
            status: 'failed',
            outcome: 'Its source is gone.',
            work: null,
            frameCheck: null,
            outputClipId: null,
          }),
        ],
      })}
    />,
  );
  for (const part of [
    '1 of 2 made, 1 failed. 8.0 s of media in 4.0 s: 2.00x real time.',
    'decoding 90 % of the time',
    '13.0 MB 50 %',
    'Frame i is frame i for 200 of 200 frames',
    'failed Its source is gone.',
    '1: 30.0 frames/s, 2: 41.0 frames/s. Made with 2.',
    'Continue',
    'Shuttle SSD simulated',
  ])
    expect(text).toContain(part);
  const live = textOf(
    <TrialView
      initial={pageOf(
        {
          ...batch,
          status: 'running',
          progress: {
            framesDone: 50,
            framesTotal: 200,
            framesPerSecond: 40,
            msLeft: 61_000,
            note: 'TW_KITE_0031.mp4',
          },
        },
        { items: [item({ status: 'running', work: null, frameCheck: null })] },
      )}
    />,
  );
  expect(live).toMatch(/TW_KITE_0031\.mp4 .*Pause Cancel .*50 of 200 .*1:01/);
});

test('the form says what the first clip becomes, and what a simulated volume means', () => {
  const renditions: RenditionsPage = {
    volumes: [{ id: 'v', name: 'Shuttle SSD', simulated: true }],
    clips: [
      {
        id: 'c1',
        path: clip.path,
        volumeName: 'Shuttle SSD',
        volumeId: 'v',
        simulated: true,
        format,
        frames: 200,
      },
    ],
  };
  const text = textOf(<RenditionsView initial={renditions} list={listPart()} wanted={['c1']} />);
  expect(text).toContain('The first becomes TW_KITE_0031_proresproxy_half.mov: ProRes Proxy, 960x540.');
  expect(text).toContain('without its link');
  expect(text).toContain('_KITE_0031.mp4 Shuttle SSD (simulated)');
  expect(text).toContain('No renditions yet');
});

test('the rate of every second, and bars by type that reach as high as their bytes', () => {
  expect(secondRates([1000, 3000, 1000, 1000], 2)).toEqual([0.032, 0.032, 0.016]);
  expect(secondRates([1000], 25)[0]).toBeCloseTo(0.2);
  const drawn: { shape: string; height: number }[] = [];
  const pen = {
    fillStyle: '',
    strokeStyle: '',
    lineWidth: 1,
    beginPath: () => undefined,
    fill: () => undefined,
    stroke: () => undefined,
    moveTo: () => undefined,
    lineTo: (x: number) => {
      drawn.push({ shape: 'line', height: x });
    },
    fillRect: (_x: number, _y: number, _w: number, height: number) => {
      drawn.push({ shape: 'flat', height });
    },
    strokeRect: (_x: number, _y: number, _w: number, height: number) => {
      drawn.push({ shape: 'hollow', height });
    },
    roundRect: (_x: number, _y: number, _w: number, height: number) => {
      drawn.push({ shape: 'round', height });
    },
  } as unknown as CanvasRenderingContext2D;
  const style = { getPropertyValue: (name: string) => name } as CSSStyleDeclaration;
  paintFrames(
    pen,
    60,
    { top: 0, height: 110 },
    { bytes: [100, 50, 25], types: 'iPB' },
    { from: 0, to: 3 },
    100,
    style,
  );
  expect(drawn.filter(({ height }) => height > 3)).toEqual([
    { shape: 'flat', height: 100 },
    { shape: 'round', height: 50 },
    { shape: 'hollow', height: 23.8 },
  ]);
  drawn.splice(0);
  paintFrames(
    pen,
    10,
    { top: 0, height: 110 },
    { bytes: Array.from({ length: 1_000 }, (_, at) => (at === 555 ? 100 : 1)), types: 'P'.repeat(1_000) },
    { from: 0, to: 1_000 },
    100,
    style,
  );
  expect(drawn.filter(({ shape }) => shape === 'flat')).toHaveLength(10); // a thousand frames in ten columns, the largest of each
  expect(Math.max(...drawn.map(({ height }) => height))).toBe(100);
  drawn.splice(0);
  paintRates(pen, 100, { top: 0, height: 50 }, [1, 2, 3], 0, { from: 0, to: 3 }, 3, style);
  expect(drawn).toHaveLength(2);
});
