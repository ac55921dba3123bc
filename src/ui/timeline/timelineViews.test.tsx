import { AppRouterContext } from 'next/dist/shared/lib/app-router-context.shared-runtime';
import type { ContextType, ReactElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import type { TimelineSubject } from '@/core/timeline/subject';
import { summariseScrub, type ScrubRequest } from '@/core/scrub/analyse';
import { rational } from '@/core/time/rational';
import type { Effect, Timeline } from '@/core/timeline/model';
import type { PartCharge } from '@/core/timeline/parts';
import { clipItem, mediaRef, timelineOf } from '@/core/timeline/testing/testTimeline';
import type { TimelineKind } from '@/core/kinds/kinds';
import { summariseOpening } from '@/core/tasks/opening';
import type { TimelineTrial } from '@/db/kinds';
import type { TimelineRun } from '@/db/queries/trials';
import type { ForecastAnswer } from '@/server/timelines/timelineForecast';
import type { LibraryPage, LibraryRow } from '@/server/library/clipList';
import { ClipList } from './ClipList';
import { CompareScrubs } from './CompareScrubs';
import { EditorView } from './EditorView';
import { Forecast } from './Forecast';
import { ItemPanel } from './ItemPanel';
import { PartTable, SlotParts } from './PlayedTimeline';
import { RunsView } from './RunsView';
import { SlotWork } from './SlotWork';
import { TestsView } from './TestsView';
import { TrialView } from '../trialPage/TrialView';
import { TimelinesView } from './TimelinesView';
import { line, listPart, pageOf, plainConditions, plainRow } from '../testing/trialRows';

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
  return markupOf(element)
    .replace(/<[^>]+>/g, ' ')
    .replaceAll('&#x27;', "'")
    .replaceAll('&quot;', '"')
    .replace(/[\u2009\u202f\s]+/g, ' ')
    .trim();
}

function markupOf(element: ReactElement): string {
  return renderToStaticMarkup(<AppRouterContext value={router}>{element}</AppRouterContext>);
}

const format = {
  container: 'MP4',
  codec: 'H.264',
  profile: 'High',
  bitDepth: 8,
  chroma: '4:2:0',
  width: 1920,
  height: 1080,
  rate: rational(24),
};
const nothing = () => undefined;
const timecodeAt = (slot: number) => `at ${slot}`;

const blur: Effect = { id: 'b', on: true, kind: 'blur', radius: 0.02 };
const lut: Effect = { id: 'l', on: false, kind: 'lut', lookId: 'dusk', name: 'Dusk' };
const base = timelineOf([
  { ...clipItem('kite', 0, 50), effects: [blur, lut] },
  clipItem('wall', 40, 60, 5, { speed: rational(1, 2) }),
]);
const angles = {
  ...clipItem('sluice', 100, 20),
  source: {
    kind: 'angles' as const,
    angles: [
      { media: 'm', in: 0 },
      { media: 'n', in: 9 },
    ],
    switches: [{ at: 0, angle: 0 }],
  },
};
const still = {
  ...clipItem('chart', 120, 20),
  source: {
    kind: 'still' as const,
    media: 'n',
    from: { x: 0, y: 0, width: 1, height: 1 },
    to: { x: 0.25, y: 0.25, width: 0.5, height: 0.5 },
  },
};
const timeline: Timeline = {
  ...base,
  media: {
    ...base.media,
    n: mediaRef({ name: 'TW_CHART_0008.mov', clipId: null, width: 7_360, height: 4_912 }),
  },
  tracks: [{ ...base.tracks[0]!, items: [...base.tracks[0]!.items, angles, still] }],
};
const item = (id: string) => timeline.tracks[0]!.items.find((one) => one.id === id)!;

const panel = (id: string) =>
  textOf(
    <ItemPanel
      timeline={timeline}
      item={item(id)}
      playhead={0}
      looks={[{ id: 'dusk', name: 'Dusk', dimensions: 3, size: 17 }]}
      onLooks={nothing}
      edit={nothing}
      timecodeAt={timecodeAt}
    />,
  );

test('an item shows its range, its effects in their order, and a control with its unit for each figure', () => {
  const text = panel('kite');
  for (const part of [
    'kite at 0 to at 50, 50 slots',
    'blur Radius 2 % of height',
    'LUT',
    'Dusk (3D, 17)',
    'Load .cube',
    'Put these effects on every item of the track',
  ])
    expect(text).toContain(part);
  expect(text.indexOf('blur Radius')).toBeLessThan(text.indexOf('Dusk (3D'));
  expect(panel('wall')).toContain('None yet. What is added here is computed in every trial.');
});

test('items of several angles and stills say what they load', () => {
  expect(panel('sluice')).toContain('2 angles are read and decoded side by side; 0 switches.');
  expect(panel('chart')).toContain(
    'A still of 7360x4912: the frame moves from 100 % at 0, 0 to 50 % at 25, 25.',
  );
});

test('the work of a slot names every layer with its exact source frame', () => {
  const text = textOf(<SlotWork timeline={timeline} slot={44} timecodeAt={timecodeAt} onSelect={nothing} />);
  expect(text).toContain('Work of slot 44');
  expect(text).toContain('wall V1, source frame 7 of 200, 45 % faded in');
  expect(text).toContain('kite V1, source frame 44 of 200; blur');
  expect(
    textOf(<SlotWork timeline={timeline} slot={105} timecodeAt={timecodeAt} onSelect={nothing} />),
  ).toContain('decoded alongside: angle 2, TW_CHART_0008.mov, frame 14');
  expect(
    textOf(<SlotWork timeline={timeline} slot={900} timecodeAt={timecodeAt} onSelect={nothing} />),
  ).toContain('A gap: black, nothing is read.');
});

const clip = (name: string, simulated = false) =>
  ({
    id: name,
    path: `kite/${name}`,
    volumeId: 'v',
    volumeName: 'Edit room internal',
    simulated,
    status: 'ready',
    format,
    frames: 200,
    startTimecode: null,
    contentHash: name,
  }) as unknown as LibraryRow;

/** The first page of as many clips. */
const libraryOf = (rows: readonly LibraryRow[], total = rows.length): LibraryPage => ({
  total,
  clips: total,
  known: total,
  unplayable: 0,
  page: 1,
  size: 50,
  rows,
});
const listOf = (page: LibraryPage) => textOf(<ClipList first={page} onAdd={nothing} onAngles={nothing} />);

test('the clip list says where each clip lies, and what to do without any', () => {
  expect(listOf(libraryOf([clip('TW_KITE_0031.mp4'), clip('TW_WALL_0107.mov', true)]))).toContain(
    'H.264 High 8-bit 4:2:0, 1920x1080, 24 /s, 200 frames Edit room internal simulated',
  );
  expect(listOf(libraryOf([]))).toContain('No clips yet. Add a volume with media on the Storage page.');
  expect(listOf({ ...libraryOf([]), known: 3 })).toContain('No clip matches.');
});

test('thousands of clips are listed by pages', () => {
  const rows = Array.from({ length: 50 }, (_, at) => clip(`TW_${at}.mov`));
  expect(listOf(libraryOf(rows, 5_000))).toContain('TW_49.mov');
  expect(listOf(libraryOf(rows, 5_000))).toContain('1 to 50 of 5 000 Before 1 / 100 After');
  expect(listOf(libraryOf(rows))).not.toContain('1 to 50');
});

test('the editor holds all of it, empty and full', () => {
  const around = { devices: [], looks: [], volumes: [], sound: [] };
  const row = {
    id: 't',
    rigId: 'r',
    name: timeline.name,
    document: timeline,
    revision: 1,
    slots: 140,
    demo: 0,
    createdAt: new Date(0),
    updatedAt: new Date(0),
    removedAt: null,
  };
  const text = textOf(<EditorView {...around} row={row} clips={libraryOf([clip('TW_WALL_0101.mov')])} />);
  for (const part of [
    'Tidewrack',
    '1920x1080, 24 /s, 0:06, 140 slots',
    'Saved',
    'V1',
    'Play and measure',
    'Forecast',
    'Sound goes along at 1x forwards, and is not heard.',
    'Versions, missing media, export',
  ])
    expect(text).toContain(part);
  expect(
    textOf(<EditorView {...around} row={{ ...row, document: timelineOf([]) }} clips={libraryOf([])} />),
  ).toContain('Nothing on the timeline yet');
});

const answer = (change: Partial<ForecastAnswer>): ForecastAnswer => ({
  forecast: null,
  restsOn: ['decoding of H.264: 70.0 frames per second, measured on this clip'],
  missing: [],
  twin: null,
  ...change,
});

test('a forecast shows its grade, causes and error; without figures it says what is to be measured', () => {
  const forecast = {
    slots: 384,
    dropped: 46,
    grade: 'stalled' as const,
    countByCharge: { 2: 44, 4: 2 },
    meanMs: { read: 1, decode: 44, process: 9 },
  };
  const text = textOf(<Forecast answer={answer({ forecast, twin: { id: 'x', dropped: 50, slots: 384 } })} />);
  for (const part of [
    'stalled',
    '46 of 384 slots would drop; decoding was late for 44, processing was late for 2',
    'decode 44.0 ms',
    '50 of 384 dropped ; the forecast is off by 4 slots, 1.0 % of them',
    'Rests on',
  ])
    expect(text).toContain(part);
  expect(
    textOf(<Forecast answer={answer({ forecast: { ...forecast, dropped: 0, grade: 'solid' } })} />),
  ).toContain('all 384 slots would be shown');
  expect(
    textOf(
      <Forecast answer={answer({ missing: [{ what: 'how fast Shuttle SSD reads', href: '/storage' }] })} />,
    ),
  ).toContain('No forecast yet. Still to be measured: how fast Shuttle SSD reads');
});

const use = {
  name: 'kite',
  clipId: 'c',
  path: 'kite/TW_KITE_0031.mp4',
  volumeId: 'v',
  volumeName: 'Edit room internal',
  standIn: null,
  contentHash: 'h',
  format,
  role: 'original' as const,
};
const subject = (change: object = {}): TimelineSubject => ({
  startTimecode: '01:00:00:00',
  timeline: {
    id: 't',
    version: 2,
    name: 'Reel one',
    rate: rational(24),
    width: 1920,
    height: 1080,
    slots: 140,
    read: 'originals',
    missing: [],
    media: { m: use },
    course: { from: 0, slots: 140, speed: 1 },
    ...change,
  },
});
const part = (change: Partial<PartCharge>): PartCharge => ({
  kind: 'item',
  trackId: 'v1',
  itemId: 'kite',
  effectId: null,
  label: 'kite',
  at: 24,
  removes: 30,
  of: 46,
  ...change,
});

test('drops are laid at tracks, items and effects, with where they begin', () => {
  const text = textOf(
    <PartTable
      subject={subject()}
      parts={[
        part({ kind: 'track', itemId: null, label: 'V1', removes: 44 }),
        part({}),
        part({ kind: 'effect', effectId: 'b', label: 'blur on kite', removes: 28 }),
      ]}
    />,
  );
  for (const line of [
    'Track V1 01:00:01:00 44 of 46',
    'Item kite 01:00:01:00 30 of 46',
    'Effect blur on kite 01:00:01:00 28 of 46',
  ])
    expect(text).toContain(line);
  expect(textOf(<PartTable subject={subject()} parts={[]} />)).toContain('they add up');
  const many = Array.from({ length: 20 }, (_, at) => part({ itemId: `i${at}`, label: `item ${at}` }));
  expect(textOf(<PartTable subject={subject()} parts={many} />)).toContain('Show all 20');
});

test('a dropped slot names what was on screen and what it is laid at', () => {
  const played = { document: timeline, strip: timeline };
  const say = (slot: number, dropped: boolean) =>
    textOf(
      <SlotParts
        played={played}
        subject={subject({ course: { from: 10, slots: 50, speed: 2 } }).timeline}
        parts={[part({}), part({ kind: 'effect', effectId: 'b', label: 'blur on kite', removes: 29 })]}
        slot={slot}
        dropped={dropped}
      />,
    );
  expect(say(5, true)).toBe('kite frame 20; without blur on kite 29 of 46 drops would not have been');
  expect(say(5, false)).toBe('kite frame 20');
  expect(say(70, true)).toBe('a gap');
});

const run = (id: string, change: Partial<TimelineRun> = {}): TimelineRun => ({
  ...plainRow,
  id,
  subject: subject(),
  settings: {
    scale: 'half',
    policy: 'hold-time',
    threads: 0,
    warm: false,
    processing: true,
    buffers: { readAhead: 24, decoded: 3, ready: 4 },
    slotLimit: null,
    faults: [],
  },
  summary: {
    slots: 140,
    shown: 94,
    late: 0,
    dropped: 46,
    wrong: 0,
    grade: 'stalled',
    achievedRate: 16,
    timesRealTime: null,
    pacingMs: null,
    attribution: null,
  },
  ...change,
});

test('runs of one version lie over each other with the settings that tell them apart', () => {
  const text = textOf(
    <RunsView
      name="Reel one"
      timelineId="t"
      runs={[
        run('a'),
        run('b', { subject: subject({ read: 'proxies', course: { from: 139, slots: 70, speed: -2 } }) }),
        run('c', { subject: subject({ version: 1 }) }),
      ]}
      list={listPart([line, { ...line, id: 't2' }, { ...line, id: 't3' }])}
    />,
  );
  for (const line of [
    '2 runs of version 2, one above the other',
    'half scale, originals',
    'half scale, 2x backwards, proxies',
    '3 rows',
  ])
    expect(text).toContain(line);
  expect(textOf(<RunsView name="Reel one" timelineId="t" runs={[]} list={listPart()} />)).toContain(
    'No run of this timeline yet',
  );
});

const request = (atMs: number, target: number, shownMs: number | null): ScrubRequest => ({
  atMs,
  target,
  shownMs,
  end: shownMs === null ? 'superseded' : 'shown',
  stoppedAfter: shownMs === null ? 'read' : null,
  readMs: 2,
  decodeMs: 10,
  processMs: 5,
  bytes: 100,
  packets: 1,
  fromKey: 3,
  wanted: target,
  proved: target,
});
const requests = [request(0, 10, 20), request(10, 11, null), request(30, 12, 70)];
const row = (change: object) =>
  ({
    ...plainRow,
    id: 's1',
    kind: 'scrub',
    timelineId: 't',
    subject: subject(),
    settings: {
      kind: 'scrub',
      scale: 'full',
      threads: 0,
      warm: false,
      gesture: { kind: 'slow-drag', seed: 1, speed: 4 },
    },
    outcome: 'The answer.',
    conditions: plainConditions,
    load: { trialMean: 0.7, othersMean: 0.01, othersPeak: 0.05, peakMemoryBytes: null },
    record: {
      cold: { method: 'direct', residentBefore: 0, residentAtStart: 0 },
      requests,
      gesture: null,
      probes: [],
      costs: null,
    },
    summary: summariseScrub(requests),
    ...change,
  }) as TimelineTrial;
const testPage = (change: object) => pageOf<TimelineKind>(row(change));

test('a scrub trial shows latency, what was overtaken, how far behind, and whether it is proved', () => {
  const text = textOf(<TrialView initial={testPage({})} />);
  for (const line of [
    'slow drag, full scale',
    'The answer.',
    'Latency p50 30.0 ms',
    'Shown 2 of 3 positions',
    'Overtaken 1',
    'Wrong frames 0 proved by the frame code',
    'slow-drag, seed 1',
    'TW_KITE_0031.mp4 (original) from Edit room internal',
  ])
    expect(text).toContain(line);
});

test('a ramp shows each level, a calibration each effect at each scale', () => {
  const probes = [
    { scale: 'full' as const, level: 1, slots: 48, dropped: 0, charge: 0 },
    { scale: 'full' as const, level: 2, slots: 48, dropped: 12, charge: 2 },
  ];
  const ramp = textOf(
    <TrialView
      initial={testPage({
        kind: 'ramp',
        settings: {
          kind: 'ramp',
          family: 'streams',
          most: 4,
          seconds: 2,
          scales: ['full'],
          threads: 0,
          warm: false,
        },
        record: { ...row({}).record!, probes },
        summary: { family: 'streams', edges: [{ scale: 'full', plays: 1, drops: 2, charge: 2 }] },
      })}
    />,
  );
  for (const line of [
    'load ramp by streams',
    'full 1 stream 48 0',
    'nothing was late',
    'full 2 streams 48 12 25.0 % decoding was late',
  ])
    expect(ramp).toContain(line);
  const costs = {
    width: 1920,
    height: 1080,
    scales: [
      { scale: 'full' as const, baseUs: 11_600, layerUs: 13_300, effects: { lut: 41_100, transform: -500 } },
    ],
  };
  const text = textOf(
    <TrialView
      initial={testPage({
        kind: 'calibration',
        settings: { kind: 'calibration', threads: 0, warm: true },
        summary: costs,
      })}
    />,
  );
  for (const line of [
    'one layer, no effect 11.6 ms',
    'a second layer over it 13.3 ms',
    'LUT 41.1 ms',
    'transform −0.50 ms',
  ])
    expect(text).toContain(line);
});

test('an opening shows when what was there, what held it back, and each clip, bad ones first', () => {
  const at = (fromMs: number, toMs: number, readMs: number) => ({ fromMs, toMs, readMs, bytes: 2_000_000 });
  const clip = { isFirst: false, sound: null, problem: null, lane: 0 };
  const opening = {
    lanes: 2,
    first: at(20, 80, 30),
    clips: [
      {
        ...clip,
        name: 'A.mov',
        isFirst: true,
        header: at(0, 20, 15),
        pictures: at(80, 300, 200),
        sound: at(300, 1_400, 900),
      },
      { ...clip, name: 'B.mov', lane: 1, header: at(80, 90, 9), pictures: at(90, 150, 50) },
      {
        ...clip,
        name: 'C.mov',
        lane: 1,
        header: null,
        pictures: null,
        problem: 'Its container cannot be read.',
      },
    ],
  };
  const text = textOf(
    <TrialView
      initial={testPage({
        kind: 'opening',
        settings: { kind: 'opening', lanes: 2, threads: 0, warm: false },
        record: {
          ...row({}).record!,
          cold: { method: 'evicted', residentBefore: 1, residentAtStart: 0 },
          opening,
        },
        summary: summariseOpening(opening),
      })}
    />,
  );
  for (const line of [
    'opening, 2 clips at a time',
    'First picture 80 ms',
    'All thumbnails 300 ms 2 of 3 clips',
    'All sound peaks 1.4 s 1 with sound',
    'Waiting for bytes held it back',
    'C.mov Its container cannot be read.',
  ])
    expect(text).toContain(line);
  expect(text.indexOf('C.mov Its')).toBeLessThan(text.indexOf('A.mov 20 ms'));
  expect(text).toMatch(/B\.mov 10 ms 60 ms none/);
});

test('what waits, failed or hung says so', () => {
  expect(
    textOf(<TrialView initial={testPage({ status: 'queued', summary: null, record: null })} />),
  ).toContain('Waiting for its turn');
  expect(
    textOf(
      <TrialView
        initial={testPage({
          status: 'hung',
          outcome: 'No frame moved for 15 s.',
          summary: null,
          record: null,
        })}
      />,
    ),
  ).toContain('No frame moved for 15 s.');
});

test('scrub trials on one plot name their only difference, or warn of several', () => {
  const proxies = row({
    id: 's2',
    subject: subject({ read: 'proxies', media: { m: { ...use, contentHash: 'p', role: 'rendition' } } }),
  });
  const text = textOf(<CompareScrubs tests={[row({}), proxies]} />);
  expect(text).toContain('They differ in their media');
  expect(text).not.toContain('no single cause');
  expect(
    textOf(
      <CompareScrubs
        tests={[
          row({}),
          row({
            ...proxies,
            settings: {
              kind: 'scrub',
              scale: 'half',
              threads: 0,
              warm: false,
              gesture: { kind: 'slow-drag', seed: 1, speed: 4 },
            },
          }),
        ]}
      />,
    ),
  ).toContain('With more than one difference no single cause can be read off.');
  expect(textOf(<CompareScrubs tests={[]} />)).toContain('No scrub trial to lay over another');
});

test('lists say what belongs there when they are empty', () => {
  expect(textOf(<TimelinesView timelines={[]} firstClip={null} />)).toContain('There is no timeline yet');
  const text = textOf(
    <TestsView
      list={listPart([
        { ...line, kind: 'scrub', how: 'shuttle, full scale', grade: null, values: { latencyP50: 30 } },
        { ...line, id: 's3', kind: 'scrub', grade: null, status: 'failed', values: {} },
      ])}
      timelines={[]}
      firstClip={null}
      devices={[]}
      gestures={[{ id: 'g', name: 'over the wall' }]}
      wantedTimelineId={null}
    />,
  );
  for (const line of [
    'recorded: over the wall',
    'shuttle, full scale',
    'Scrub latency p50, ms',
    '30.0',
    'failed',
  ])
    expect(text).toContain(line);
  expect(
    textOf(
      <TestsView
        list={listPart()}
        timelines={[]}
        firstClip={null}
        devices={[]}
        gestures={[]}
        wantedTimelineId={null}
      />,
    ),
  ).toContain('Nothing measured yet');
});
