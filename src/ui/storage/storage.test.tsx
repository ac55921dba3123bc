import type { ReactElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import { generalFormats } from '@/core/storage/cameraFormats';
import { modelOf } from '@/core/storage/presets';
import { standInModel, type StandInChoice } from '@/core/storage/standInChoice';
import type { StreamsSummary } from '@/core/storage/streams';
import type { CombinedFigures, ThroughputSummary } from '@/core/storage/throughput';
import type { TrialRow } from '@/db/kinds';
import type { VolumeWithCounts } from '@/db/queries/volumes';
import type { CopyResult } from '@/engine/storage/spec';
import { CameraFormats } from './CameraFormats';
import { CopyFigures } from './CopyFigures';
import { DayBudget } from './DayBudget';
import { bandsOf, clipRungs, formatRungs, type LadderPage } from './ladderData';
import { LadderView } from './LadderView';
import { ratesOf } from './measured';
import { PlannerView } from './PlannerView';
import { emptyStandIn, sentStandIn, standInForm } from './StandInFields';
import { StreamsFigures } from './StreamsFigures';
import { settingsWords, storageAnswer } from './words';
import { plainRow } from '../testing/trialRows';
import type { ThroughputSettings } from '@/core/kinds/throughput';
import type { CopySettings } from '@/core/kinds/copy';

/** What a person reads of a drawn component. */
function textOf(element: ReactElement): string {
  return renderToStaticMarkup(element)
    .replace(/<[^>]+>/g, ' ')
    .replaceAll('&#x27;', "'")
    .replace(/[\u2009\u202f\s]+/g, ' ')
    .trim();
}

const figures: CombinedFigures = {
  bytes: 2e9,
  seconds: 10,
  blocks: 500,
  mean: 200e6,
  median: 210e6,
  p5: 150e6,
  p95: 300e6,
  sustained: 190e6,
  burst: { seconds: 2.5, bytes: 1e9, median: 400e6 },
  latencyMs: { p50: 4, p95: 8, p99: 12, max: 40 },
  missed: 0,
  hostLateShare: 0,
  spread: 0.04,
};
const settings: ThroughputSettings = {
  kind: 'throughput',
  test: 'sequential-read',
  blockBytes: 4 * 2 ** 20,
  bytes: 1e9,
  seconds: 15,
  repeats: 3,
  streams: 1,
  clipId: null,
  clipPath: null,
};
const summary: ThroughputSummary = { repeats: [], read: figures, write: null };
const model = modelOf('ethernet-1', 'disk', { level: 6, drives: 8 });

const facts = {
  fileSystem: 'ext4',
  device: '/dev/sda1',
  mountPoint: '/',
  sizeBytes: 1e12,
  freeBytes: 5e11,
  rotational: false,
  writable: true,
};
const volume: VolumeWithCounts = {
  id: 'v1',
  rigId: 'r',
  name: 'Harbour-office store',
  kind: 'network',
  path: '/srv/store',
  facts,
  link: '',
  notes: '',
  price: null,
  standIn: null,
  cacheBytes: 0,
  demo: 0,
  scan: null,
  lastScan: null,
  scannedAt: null,
  createdAt: new Date(0),
  clipCount: 0,
  problemCount: 0,
};
const trial: TrialRow<'throughput'> = {
  ...plainRow,
  id: 't1',
  kind: 'throughput',
  settings,
  summary,
  createdAt: new Date('2026-11-25T08:00:00Z'),
  subject: {
    volumeId: 'v1',
    volumeName: volume.name,
    volumeKind: 'network',
    volumePath: volume.path,
    volumeFacts: facts,
    link: '',
    standIn: model,
    cacheBytes: 0,
    clip: null,
  },
};

test('a volume’s rates are the newest measured ones, else its model’s, else unknown', () => {
  expect(ratesOf(volume, [trial], 'sequential-read')).toEqual({
    p5: 150e6,
    p95: 300e6,
    sustained: 190e6,
    from: 'measured',
    doubt: null,
    trialId: 't1',
  });
  expect(ratesOf(volume, [trial], 'sequential-write')).toBeNull();
  expect(ratesOf({ ...volume, standIn: model }, [], 'sequential-read')).toMatchObject({
    from: 'forecast',
    trialId: null,
  });
  expect(
    ratesOf(
      volume,
      [{ ...trial, load: { trialMean: 0.1, othersMean: 0.6, othersPeak: 0.9, peakMemoryBytes: null } }],
      'sequential-read',
    )!.doubt,
  ).toBe('disturbed');
});

test('a stand-in’s form gives back the model it was made from, and sends text that is no number as text', () => {
  const made = standInModel({
    ...sentStandIn(emptyStandIn),
    fault: { kind: 'slow-drive', atSeconds: 3, share: 0.25 },
  });
  expect(standInModel(sentStandIn(standInForm(made)) as StandInChoice)).toEqual(made);
  expect(sentStandIn({ ...emptyStandIn, othersMegabytesPerSecond: 'lots', depth: '' })).toMatchObject({
    othersMegabytesPerSecond: 'lots',
    depth: null,
  });
});

test('storage trials are named and answered in words', () => {
  expect(settingsWords(settings)).toMatch(/^Sequential read, 4\sMiB blocks, 3 repeats of 1\.0.GB or 15\ss$/);
  expect(settingsWords({ ...settings, test: 'frame-paced', streams: 2, repeats: 1 })).toContain(
    'Frame-paced read, 2 streams, 1 repeat',
  );
  expect(storageAnswer(trial)).toBe(
    'Reads 190\u202fMB/s sustained, after 2.5\u202fs (1.00\u202fGB) at 400\u202fMB/s, repeats within 4\u202f%.',
  );
  expect(storageAnswer({ ...trial, summary: null })).toBeNull();
});

const copySettings: CopySettings = {
  kind: 'copy',
  folder: '',
  destinations: [
    { volumeId: 'v1', volumeName: 'Edit room', folder: 'A001', simulated: false },
    { volumeId: 'v2', volumeName: 'Shuttle', folder: 'A001', simulated: true },
  ],
  verify: true,
};
const copied: CopyResult = {
  work: {
    read: { bytes: 4e8, us: 4e6 },
    hash: { bytes: 4e8, us: 2e5 },
    write: { bytes: 4e8, us: 2e6 },
    verify: { bytes: 8e8, us: 2e6 },
  },
  files: 3,
  bytes: 4e8,
  seconds: 9,
  copied: 2,
  present: 0,
  conflicts: 1,
  damaged: 0,
  leftOut: 2,
  hashLists: ['/srv/A001/ascmhl/0001.mhl'],
};

test('a copy shows its rates, its limit, what was left out, and each file', () => {
  const text = textOf(
    <CopyFigures
      result={copied}
      settings={copySettings}
      files={[
        {
          path: 'clips/a.mov',
          bytes: 1e6,
          modifiedMs: 0,
          outcome: 'conflict',
          xxh64: 'ab12',
          hashedMs: 0,
          problem: 'clips/a.mov was there with other content.',
        },
      ]}
    />,
  );
  expect(text).toContain('Read 100 MB/s');
  expect(text).toContain('each of two, side by side');
  expect(text).toContain('The limit was reading the card');
  expect(text).toContain('2 links or special files were left out');
  expect(text).toContain('different content there, left alone clips/a.mov was there with other content.');
  expect(
    storageAnswer({
      ...plainRow,
      id: 'k',
      kind: 'copy',
      subject: trial.subject,
      settings: copySettings,
      summary: copied,
    }),
  ).toMatch(
    /^2 of 3 files, 400\.0.MB in all, copied and verified; 1 had different content there and were left alone\.$/,
  );
});

test('a ramp shows which numbers were clean, and which only lived on their read-ahead', () => {
  const streams: StreamsSummary = {
    clean: 4,
    missed: 5,
    limit: 'data rate',
    arithmetic: { bytesPerSecond: 118e6, streams: 5, from: 'model', limit: 'link' },
    steps: [
      {
        streams: 4,
        frames: 400,
        missed: 0,
        behind: false,
        clean: true,
        bytesPerSecond: 90e6,
        latencyP99Ms: 20,
        hostLateShare: 0,
      },
      {
        streams: 5,
        frames: 500,
        missed: 0,
        behind: true,
        clean: false,
        bytesPerSecond: 112e6,
        latencyP99Ms: 60,
        hostLateShare: 0,
      },
    ],
  };
  const text = textOf(
    <StreamsFigures
      trial={{
        ...plainRow,
        id: 'n',
        kind: 'streams-carried',
        subject: trial.subject,
        settings: { kind: 'streams-carried', clipId: 'c', clipPath: 'a.mov', seconds: 4, mostStreams: 8 },
      }}
      summary={streams}
    />,
  );
  expect(text).toContain('Measured 4 streams 5 missed slots or fell behind');
  expect(text).toContain('118 MB/s by the model');
  expect(text).toContain('none yet, falls behind');
});

const formatRows = generalFormats.map((format, position) => ({ id: `f${position}`, position, ...format }));
const clip = {
  id: 'c1',
  volumeId: 'v1',
  path: 'wall/TW_WALL.mov',
  contentHash: 'h',
  meanBitsPerSecond: 180e6,
  peakBitsPerSecond: 190e6,
  format: {
    container: 'MOV',
    codec: 'ProRes',
    profile: 'Standard',
    bitDepth: 10,
    chroma: '4:2:2',
    width: 1920,
    height: 1080,
    rate: { num: 24, den: 1 },
  },
} as unknown as LadderPage['clips'][number];
const ladder: LadderPage = {
  volumes: [
    volume,
    { ...volume, id: 'v2', name: 'Shuttle', standIn: model },
    { ...volume, id: 'v3', name: 'Unmeasured disk' },
  ],
  latest: [trial],
  clips: [clip, { ...clip, id: 'c2' }],
};

test('the ladder stands on what is known: measured, forecast, and what is not', () => {
  const { bands, unknown } = bandsOf(ladder);
  expect(bands.map(({ name, from, simulated }) => [name, from, simulated])).toEqual([
    ['Harbour-office store', 'measured', false],
    ['Shuttle', 'forecast', true],
  ]);
  expect(unknown).toEqual(['Unmeasured disk']);
  expect(clipRungs(ladder).map(({ name }) => name)).toEqual(['TW_WALL.mov']); // the same content stands once
  expect(formatRungs(formatRows)).toHaveLength(generalFormats.length);
  const text = textOf(<LadderView page={ladder} formats={formatRows} />);
  expect(text).toMatch(
    /^UHD uncompressed from Harbour-office store: too slow by 63 %; not one stream fits with the margin\./,
  );
  expect(text).toContain('was measured to sustain 190 MB/s');
  expect(text).toContain('Not measured: Unmeasured disk');
  expect(textOf(<LadderView page={{ volumes: [], latest: [], clips: [] }} formats={formatRows} />)).toContain(
    'No volume is measured yet',
  );
});

test('the planner answers first, then says what it rests on', () => {
  const text = textOf(<PlannerView formats={formatRows} />);
  expect(text).toMatch(
    /^Store B carries 7 streams for each of 4 clients \(2 wanted\) for 3 960 EUR, the least of those that do/,
  );
  expect(text).toContain('Usable capacity 108.0 TB 20.0 TB');
  expect(text).toContain('Chance to lose data in a rebuild 1 in');
  expect(text).toContain('A forecast from arithmetic, not a measurement');
});

test('a shooting day names the part that costs the hours', () => {
  const text = textOf(
    <DayBudget
      page={{
        volumes: [],
        latest: [],
        copied: [
          {
            ...trial,
            kind: 'copy',
            settings: copySettings,
            conditions: null,
            progress: null,
            summary: copied,
          },
        ],
      }}
    />,
  );
  expect(text).toContain('Machine hashes, measured');
  expect(text).toMatch(
    /for the day’s cards, limited by the reader\. A reader twice as fast saves \d:\d\d:\d\d\./,
  );
  expect(text).toMatch(/\d\.\d\dx as fast, \d+ % less time/);
});

test('tables of storage say what they hold, with units, and what belongs there when empty', () => {
  expect(textOf(<CameraFormats formats={formatRows} reload={() => Promise.resolve()} />)).toContain(
    'UHD all-intra 3840x2160 25 All-intra 10-bit 4:2:2 1 250 000 250',
  );
});
