/** @jest-environment jsdom */
import { screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { modelTrace } from '@/core/playback/modelTrace';
import { simulate } from '@/core/playback/simulate';
import { defaultBufferDepths } from '@/core/playback/slots';
import { summarise } from '@/core/playback/summary';
import { encodeTraceView, viewOfTrace } from '@/core/playback/traceView';
import { intraGraph, uniformWork } from '@/core/playback/work';
import { modelOf } from '@/core/storage/presets';
import type { CombinedFigures } from '@/core/storage/throughput';
import { rational } from '@/core/time/rational';
import type { PlayedKind, StorageKind } from '@/core/kinds/kinds';
import type { PlayedTrial, StorageTrial, TrialRow } from '@/db/kinds';
import type { StoragePage } from '@/server/library/storage';
import type { TrialPage } from '@/server/trials/trialPage';
import { HistoryChart } from '../storage/HistoryChart';
import { TrialView } from './TrialView';
import { VolumeList } from '../storage/VolumeList';
import {
  connection,
  event,
  inBrowser,
  press,
  pushed,
  read,
  Refusal,
  requests,
  server,
  settle,
  show,
  status,
} from '../testing/livePage';

import { pageOf, plainRow } from '../testing/trialRows';

inBrowser();

const rate = rational(25);
const slots = 48;
const format = {
  container: 'MOV',
  codec: 'ProRes',
  profile: 'Standard',
  bitDepth: 10,
  chroma: '4:2:2',
  width: 1920,
  height: 1080,
  rate,
};
const facts = {
  fileSystem: 'ext4',
  device: '/dev/sda1',
  mountPoint: '/',
  sizeBytes: 1e12,
  freeBytes: 5e11,
  rotational: false,
  writable: true,
};
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
const scaleCosts = { full: 60_000, half: 15_000, quarter: 4_000 };

/** A run as the model leaves it: processing takes `processMs` of a slot's 40 ms. */
function modelled(processMs: number) {
  const work = uniformWork(intraGraph(slots), rate, {
    read: 2_000,
    decode: 5_000,
    process: processMs * 1_000,
  });
  const trace = modelTrace(work, simulate(work), new Float64Array(slots).fill(50_000));
  const { summary, charges } = summarise({
    trace,
    graph: work.graph,
    rate,
    policy: 'hold-time',
    buffers: defaultBufferDepths,
    scale: 'full',
    scaleCosts,
  });
  return { summary, view: encodeTraceView(viewOfTrace(trace, charges, 40_000, work)) };
}
const late = modelled(60);
const smooth = modelled(10);

const trial = (change: object = {}) =>
  ({
    ...plainRow,
    id: 't1',
    kind: 'playback',
    clipId: 'c1',
    progress: { slotCount: slots },
    subject: {
      clipPath: 'wall/TW_WALL_0107.mov',
      volumeName: 'Shuttle SSD',
      volumeKind: 'external',
      volumeFacts: facts,
      contentHash: 'abcdef0123456789',
      format,
      structure: {} as never,
      frames: slots,
      startTimecode: '07:12:40:00',
    },
    settings: {
      scale: 'full',
      policy: 'hold-time',
      threads: 0,
      warm: false,
      processing: true,
      buffers: defaultBufferDepths,
      slotLimit: null,
      faults: [],
    },
    conditions: {
      rig: identity,
      rigState: {
        at: '',
        power: 'mains',
        processorGovernor: null,
        loadAverage: 0,
        freeMemoryBytes: 1,
        busiest: [],
      },
      softwareVersion: '0.1.0',
      run: {
        cold: { method: 'direct', residentBefore: 0, residentAtStart: 0 },
        startLatencyMs: 80,
        decoder: 'prores',
        decoderThreads: 2,
        threadKind: 'frame',
        codecLibrary: 'x',
        afterwards: { scaleCosts, frameCode: true },
      },
    },
    load: { trialMean: 0.5, othersMean: 0.01, othersPeak: 0.02, peakMemoryBytes: 1e8 },
    summary: late.summary,
    createdAt: new Date('2026-11-25T08:00:00Z'),
    startedAt: new Date('2026-11-25T08:00:01Z'),
    endedAt: new Date('2026-11-25T08:00:04Z'),
    ...change,
  }) as PlayedTrial;
const page = (change: object = {}, more: Partial<TrialPage<PlayedKind>> = {}) =>
  pageOf<PlayedKind>(trial(change), more);

/** Packed traces are no JSON: they come as bytes. */
function servesTrace(view: Uint8Array): void {
  const plain = globalThis.fetch;
  globalThis.fetch = ((path: string, init?: RequestInit) =>
    path.endsWith('/trace')
      ? Promise.resolve({ ok: true, arrayBuffer: () => Promise.resolve(view.slice().buffer) })
      : plain(path, init)) as typeof fetch;
}
let plainFetch: typeof fetch;
beforeEach(() => {
  plainFetch = globalThis.fetch;
});
afterEach(() => {
  globalThis.fetch = plainFetch;
});

describe('a trial’s page', () => {
  test('answers first, tells the cures, and plays a cure’s scale with one press', async () => {
    servesTrace(late.view);
    server(({ path, method }) => (path === '/api/trials' && method === 'POST' ? { id: 't2' } : undefined));
    await show(
      <TrialView
        initial={page(
          {},
          { plan: { planId: 'p1', name: 'Which volume?', cell: 0, repeat: 1 } as TrialPage['plan'] },
        )}
      />,
    );
    await settle();
    expect(screen.getByTestId('answer').textContent).toMatch(
      /^\d+ of 48 slots dropped; processing was late for/,
    );
    expect(screen.getByRole('link', { name: 'Which volume?, repeat 2' }).getAttribute('href')).toBe(
      '/trials/plans/p1',
    );
    expect(within(screen.getByRole('table', { name: 'Drops by cause' })).getAllByRole('row')).toHaveLength(2);
    // The playhead waits at the first drop.
    expect(read()).toContain(`slot ${late.summary.firstDropSlot}`);
    await press('Play it at half scale');
    await press('Repeat');
    expect(requests.map(({ body }) => body)).toEqual(
      ['half', 'full'].map((scale) => ({
        kind: 'playback',
        clipId: 'c1',
        scale,
        policy: 'hold-time',
        threads: 0,
        warm: false,
        cache: 'past',
        underWay: 1,
        depth: '8-bit',
        fields: 'woven',
        meanwhile: 'nothing',
        sound: 'off',
        decodeOn: [],
      })),
    );
    expect(pushed).toEqual(['/trials/t2', '/trials/t2']);
  });

  test('says when it was worked in less than its media has, and plays it as deep with one press', async () => {
    servesTrace(late.view);
    server(({ path, method }) => (path === '/api/trials' && method === 'POST' ? { id: 't2' } : undefined));
    const { settings } = trial();
    await show(<TrialView initial={page({ settings: { ...settings, depth: '8-bit' } })} />);
    await settle();
    expect(read()).toContain('Processed in 8 bits a channel, which is less than its media has.');
    expect(read()).toContain('hold time, in 8 bits');
    await press('Play it as deep as the source');
    expect(requests.map(({ body }) => (body as { depth: string }).depth)).toEqual(['kept']);
  });

  test('says what decoded each stream and what fell back, repeats it so, and plays it in software with one press', async () => {
    servesTrace(late.view);
    server(({ path, method }) => (path === '/api/trials' && method === 'POST' ? { id: 't2' } : undefined));
    const decoding = [
      { deviceId: 'stand-in-neap', name: 'Neap', simulated: true, share: 2 },
      { deviceId: 'software', name: 'software', simulated: false, share: 1 },
    ];
    const { settings, conditions } = trial();
    const streams = [
      {
        item: 'Wall',
        track: 0,
        clip: 'TW_WALL_0107.mov',
        device: 0,
        decoder: 'prores',
        frames: 48,
        onDevice: 0,
      },
      {
        item: 'Kite',
        track: 1,
        clip: 'TW_KITE_0031.mp4',
        device: 0,
        decoder: 'Neap (simulated)',
        frames: 40,
        onDevice: 40,
      },
      {
        item: 'Marsh',
        track: 2,
        clip: 'TW_MARSH_0004.mov',
        device: 1,
        decoder: 'hevc',
        frames: 12,
        onDevice: 0,
      },
    ];
    await show(
      <TrialView
        initial={page({
          simulated: true,
          settings: { ...settings, decoding },
          conditions: { ...conditions!, run: { ...conditions!.run!, streams } },
        })}
      />,
    );
    await settle();
    expect(read()).toContain(
      '1 of 3 streams fell back to software, which the device did not report: TW_WALL_0107.mov.',
    );
    const cells = (name: string) =>
      within(screen.getByRole('table', { name }))
        .getAllByRole('row')
        .slice(1)
        .map((row) => [...row.querySelectorAll('td')].map(({ textContent }) => textContent));
    expect(cells('Streams by device')).toEqual([
      ['Neapsimulated', '2', '2', '88', expect.stringMatching(/^88/), '40'],
      ['software', '1', '1', '12', expect.stringMatching(/^12/), '–'],
    ]);
    expect(cells('Each stream').map((row) => row.slice(0, 2))).toEqual([
      ['Wall', '1'],
      ['Kite', '2'],
      ['Marsh', '3'],
    ]);
    expect(cells('Each stream').map((row) => row.slice(3, 5))).toEqual([
      ['Neap', 'prores, fell back'],
      ['Neap', 'Neap (simulated)'],
      ['software', 'hevc'],
    ]);
    await press('Repeat');
    await press('Play it in software');
    expect(requests.map(({ body }) => (body as { decodeOn: unknown }).decodeOn)).toEqual([
      [
        { deviceId: 'stand-in-neap', share: 2 },
        { deviceId: 'software', share: 1 },
      ],
      [],
    ]);
  });

  test('without a drop is solid and shows no causes; what cannot be repeated offers it not', async () => {
    servesTrace(smooth.view);
    await show(<TrialView initial={page({ summary: smooth.summary, clipId: null })} />);
    await settle();
    expect(screen.getByTestId('answer').textContent).toContain('All 48 slots were shown');
    expect(read()).toContain('solid');
    expect(screen.queryByRole('table', { name: 'Drops by cause' })).toBeNull();
    expect(screen.queryByRole('button', { name: 'Repeat' })).toBeNull();
    expect(screen.getByRole('button', { name: 'Remove this trial' })).toBeTruthy();
  });

  test('of a run that failed begins with how it ended, and says so when the trace cannot be had', async () => {
    await show(
      <TrialView
        initial={page({
          status: 'crashed',
          outcome: 'The trial process ended unexpectedly (signal SIGKILL).',
          detail: 'at decode',
          conditions: null,
        })}
      />,
    );
    await settle();
    const [end, trace] = screen.getAllByRole('alert');
    expect(end?.textContent).toContain(
      'The trial process crashedThe trial process ended unexpectedly (signal SIGKILL).',
    );
    expect(trace?.textContent).toContain('The trace could not be loaded');
    expect(screen.getByTestId('answer').textContent).toMatch(/^Up to where it ended: /);
    expect(read()).toContain('The run did not get that far.');
  });

  test('of another rig says whose it is, and that a simulated one was computed; nothing of it is done here', async () => {
    servesTrace(late.view);
    await show(
      <TrialView
        initial={page(
          {},
          {
            rig: {
              name: 'Quoin',
              imported: { simulated: true, softwareVersion: 'x', exportedAt: '2026-11-02T09:00:00Z' },
            },
          },
        )}
      />,
    );
    expect(read()).toContain('From the rig Quoin, which is simulated: computed by a model, not measured.');
    expect(screen.queryByRole('button', { name: 'Remove this trial' })).toBeNull();
    expect(screen.queryByRole('button', { name: 'Series of' })).toBeNull();
  });

  test('a refused repeat says why', async () => {
    servesTrace(late.view);
    server(({ path }) =>
      path === '/api/trials' ? new Refusal('The clip is no longer in the library.') : undefined,
    );
    await show(<TrialView initial={page()} />);
    await press('Repeat');
    expect(screen.getByRole('alert').textContent).toBe('The clip is no longer in the library.');
  });

  test('waits, runs and ends before one’s eyes', async () => {
    let now = page({ status: 'queued', summary: null, startedAt: null });
    const running = { ...status, running: { id: 't1', name: 'a', what: 'Trial', href: '/trials/t1' } };
    server(({ path }) =>
      path === '/api/trials/t1'
        ? now
        : path === '/api/status'
          ? now.trial.status === 'running'
            ? running
            : status
          : undefined,
    );
    await show(<TrialView initial={now} />);
    expect(screen.getByRole('heading', { level: 1 }).textContent).toBe('Waiting for its turn');
    expect(read()).toContain('One trial runs at a time on a rig');
    now = page({ status: 'running', summary: null });
    await event({
      type: 'trial-status',
      trialId: 't1',
      kind: 'playback',
      volumeIds: [],
      status: 'running',
    });
    expect(screen.getByRole('heading', { level: 1 }).textContent).toBe('Filling the read-ahead');
    const counters = {
      slot: 25,
      slotCount: slots,
      shown: 20,
      dropped: 5,
      settled: 25,
      achievedRate: 19.6,
      depths: { read: 3, decoded: 1, ready: 0 },
      cpuUs: 0,
    };
    await event({
      type: 'trial-progress',
      trialId: 'another',
      progress: { counters: { ...counters, slot: 99 }, msLeft: 1_000 },
    });
    expect(screen.getByRole('heading', { level: 1 }).textContent).toBe('Filling the read-ahead');
    await event({ type: 'trial-progress', trialId: 't1', progress: { counters, msLeft: 4_000 } });
    await event({ type: 'trial-slots', trialId: 't1', from: 0, states: 'sssdd' });
    expect(screen.getByRole('heading', { level: 1 }).textContent).toBe('25 of 48 slots played, 5 dropped');
    for (const part of [
      'Achieved19.6 /sof 25 per second',
      'Time left0:04',
      'Timecode07:12:40:24',
      'Read ahead3of',
    ])
      expect(read().replaceAll(' ', '')).toContain(part.replaceAll(' ', ''));
    now = page();
    servesTrace(late.view);
    await event({
      type: 'trial-status',
      trialId: 't1',
      kind: 'playback',
      volumeIds: [],
      status: 'done',
    });
    expect(screen.getByTestId('answer').textContent).toContain('slots dropped');
  });
});

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
const measured = (change: object = {}, sustained = 190e6) =>
  ({
    ...plainRow,
    id: 's1',
    volumeIds: ['v1'],
    kind: 'throughput',
    settings: {
      kind: 'throughput',
      test: 'sequential-read',
      blockBytes: 4 * 2 ** 20,
      bytes: 1e9,
      seconds: 15,
      repeats: 3,
      streams: 1,
      clipId: null,
      clipPath: null,
    },
    summary: { repeats: [], read: { ...figures, sustained }, write: null },
    createdAt: new Date('2026-11-25T08:00:00Z'),
    subject: {
      volumeId: 'v1',
      volumeName: 'Shuttle SSD',
      volumeKind: 'external',
      volumePath: '/media/shuttle',
      volumeFacts: facts,
      link: '',
      standIn: null,
      cacheBytes: 0,
      clip: null,
    },
    ...change,
  }) as TrialRow<'throughput'>;
const copy = (change: object): StorageTrial => ({
  ...measured(),
  kind: 'copy',
  settings: {
    kind: 'copy',
    folder: '',
    destinations: [{ volumeId: 'v2', volumeName: 'Store', folder: 'A001', simulated: false }],
    verify: true,
  },
  summary: null,
  ...change,
});

describe('a storage trial’s page', () => {
  test('answers first, draws the curve with its burst, and repeats it just as it was', async () => {
    server(({ path }) =>
      path.endsWith('/rates')
        ? {
            windowMs: 250,
            series: [{ repeat: 0, write: false, beganMs: 0, rates: [4e8, 4e8, 1.9e8, 1.9e8] }],
          }
        : path === '/api/trials'
          ? { id: 's2' }
          : undefined,
    );
    await show(<TrialView initial={pageOf<StorageKind>(measured())} />);
    await settle();
    expect(screen.getByTestId('answer').textContent).toMatch(/^Reads 190.MB\/s sustained, after 2\.5\ss/);
    expect(screen.getByRole('img', { name: 'Throughput of 0 repeats over time' })).toBeTruthy();
    await press('Repeat');
    expect(requests[0]?.body).toMatchObject({ volumeId: 'v1', test: 'sequential-read', repeats: 3 });
    expect(pushed).toEqual(['/storage/trials/s2']);
  });

  test('of a paused copy offers to go on, and says what stays; one that was stopped by the drive says whose figures these are', async () => {
    server(({ path }) =>
      path.endsWith('/rates') ? { windowMs: 250, series: [] } : path.endsWith('/resume') ? {} : undefined,
    );
    const { again } = await show(
      <TrialView
        initial={pageOf<StorageKind>(copy({ status: 'paused', outcome: 'Paused after 2 files.' }))}
      />,
    );
    expect(screen.getByRole('alert').textContent).toMatch(
      /^This copy is pausedPaused after 2 files\. Files that are whole stay where they are; half-written ones were removed\./,
    );
    await press('Continue');
    expect(requests).toEqual([{ method: 'POST', path: '/api/trials/s1/resume', body: null }]);
    await again(
      <TrialView
        key="held"
        initial={pageOf<StorageKind>(
          measured({
            subject: { ...measured().subject, standIn: modelOf('ethernet-1', 'disk') },
            simulated: true,
            summary: { repeats: [], read: { ...figures, hostLateShare: 0.9 }, write: null },
          }),
        )}
      />,
    );
    expect(screen.getByRole('note').textContent).toContain('these figures are the machine’s');
    expect(read()).toContain('simulated');
  });

  test('shows how far a copy is; P pauses it, Escape cancels it', async () => {
    server(({ path }) =>
      path.endsWith('/pause') ? new Refusal('It has ended.') : path.endsWith('/cancel') ? {} : undefined,
    );
    await show(<TrialView initial={pageOf<StorageKind>(copy({ status: 'running' }))} />);
    expect(screen.getByRole('heading', { level: 1 }).textContent).toBe('Preparing');
    const told = {
      step: 1,
      steps: 3,
      share: 0.4,
      bytes: 4e8,
      moved: 4e8,
      readRate: 98e6,
      writeRate: 95e6,
      atMs: 4_000,
      msLeft: 6_000,
    };
    await event({
      type: 'trial-progress',
      trialId: 's1',
      progress: { ...told, phase: 'copying', note: 'clips/b.mov' },
    });
    expect(screen.getByRole('heading', { level: 1 }).textContent).toBe('Copying file 2 of 3: clips/b.mov');
    for (const part of ['Reading98.0MB/s', 'Done40%', 'Timeleft0:06'])
      expect(read().replaceAll(' ', '')).toContain(part);
    await event({
      type: 'trial-progress',
      trialId: 's1',
      progress: { ...told, phase: 'verifying', note: 'clips/b.mov' },
    });
    expect(screen.getByRole('heading', { level: 1 }).textContent).toContain('Verifying file 2 of 3');
    await userEvent.keyboard('p');
    await settle();
    expect(screen.getByRole('alert').textContent).toBe('It has ended.');
    await userEvent.keyboard('{Escape}');
    await settle();
    expect(requests.map(({ path }) => path)).toEqual(['/api/trials/s1/pause', '/api/trials/s1/cancel']);
    expect(screen.getByRole('button', { name: 'Cancelling' })).toHaveProperty('disabled', true);
  });
});

test('a volume that has slowed says so against the median before; disturbed measurements do not count', async () => {
  const at = (day: number, sustained: number, change: object = {}) =>
    measured({ id: `s${day}`, createdAt: new Date(Date.UTC(2026, 10, day)), ...change }, sustained);
  const { again } = await show(
    <HistoryChart trials={[at(4, 100e6), at(1, 200e6), at(2, 210e6), at(3, 190e6)]} />,
  );
  expect(screen.getByRole('note').textContent).toMatch(
    /the newest is 0\.50x as fast as the median before it\. It has slowed; check drive, link and free space\./,
  );
  expect(screen.getByRole('group', { name: 'Sustained rates over time, 4 measurements' })).toBeTruthy();
  expect(screen.getAllByRole('link').map((link) => link.getAttribute('href'))).toEqual([
    '/storage/trials/s1',
    '/storage/trials/s2',
    '/storage/trials/s3',
    '/storage/trials/s4',
  ]);
  await again(
    <HistoryChart
      trials={[
        at(1, 200e6),
        at(2, 210e6),
        at(3, 190e6),
        at(4, 100e6, { load: { trialMean: 0.1, othersMean: 0.7, othersPeak: 0.9, peakMemoryBytes: null } }),
      ]}
    />,
  );
  expect(screen.queryByRole('note')).toBeNull();
  expect(read()).toContain('the newest is 0.93x as fast');
  await again(<HistoryChart trials={[]} />);
  expect(screen.queryByRole('figure', { name: 'History' })).toBeNull();
});

describe('the list of volumes', () => {
  const volume = (id: string, name: string, change: object = {}) =>
    ({
      id,
      rigId: 'r',
      name,
      kind: 'network',
      path: `/srv/${id}`,
      facts,
      link: '1 Gb/s',
      notes: '',
      price: null,
      standIn: null,
      cacheBytes: 0,
      demo: 0,
      scan: null,
      lastScan: null,
      scannedAt: null,
      createdAt: new Date(0),
      clipCount: 1,
      problemCount: 0,
      ...change,
    }) as StoragePage['volumes'][number];

  test('says of each where it is, what it gives and how that is known', async () => {
    const model = modelOf('ethernet-1', 'disk', { level: 6, drives: 8 });
    await show(
      <VolumeList
        page={{
          volumes: [
            volume('v1', 'Shuttle SSD', { problemCount: 2 }),
            volume('v2', 'Harbour-office store', { standIn: model }),
            volume('v3', 'Archive', {
              facts: { ...facts, writable: false, network: { server: 'quay', share: '/archive' } },
            }),
          ],
          latest: [measured()],
        }}
      />,
    );
    const entry = (name: string) =>
      (screen.getByRole('article', { name }).textContent ?? '').replace(/[\u2009\u202f\s]+/g, ' ');
    expect(entry('Shuttle SSD')).toMatch(
      /Read, sustained190.*measured.*Write, sustained–not measured.*2 with a problem/,
    );
    expect(entry('Harbour-office store')).toMatch(
      /simulated.*8 drives at level 6, .* usable, over \/srv\/v2.*forecast by its model/,
    );
    expect(entry('Archive')).toMatch(/\/archive of quay.*read-only/);
  });

  test('shows a scan while it runs, fetches what it found, and names what goes with a volume', async () => {
    let volumes = [volume('v1', 'Shuttle SSD')];
    server(({ path, method }) =>
      path === '/api/volumes'
        ? { volumes, latest: [] }
        : path === '/api/volumes/v1' && method === 'DELETE'
          ? {}
          : undefined,
    );
    await show(<VolumeList page={{ volumes, latest: [] }} />);
    await event({ type: 'volume', volumeId: 'v1', done: 0, total: 0, finished: false });
    expect(read()).toContain('Looking for media');
    await event({ type: 'volume', volumeId: 'v1', done: 3, total: 12, finished: false });
    expect(read()).toContain('3 of 12 files');
    expect(screen.getByRole('button', { name: 'Scan' })).toHaveProperty('disabled', true);
    volumes = [volume('v1', 'Shuttle SSD', { clipCount: 12 })];
    await event({ type: 'volume', volumeId: 'v1', done: 12, total: 12, finished: true });
    expect(read()).toContain('12 clips');
    await press('Remove Shuttle SSD');
    expect(screen.getByRole('alertdialog').textContent).toContain(
      'Navvy forgets it and its 12 clips. The files and the trials made from them stay.',
    );
    volumes = [];
    await press('Remove');
    expect(requests).toEqual([{ method: 'DELETE', path: '/api/volumes/v1', body: null }]);
    expect(read()).toContain('No volume yet');
    await connection(false);
  });
});
