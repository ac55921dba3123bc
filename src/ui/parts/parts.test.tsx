import type { ColumnDef } from '@tanstack/react-table';
import type { ReactElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import { causeBit } from '@/core/playback/attribute';
import { soundState } from '@/core/playback/sound';
import { skippedAt, slotState } from '@/core/playback/slots';
import type { PlaybackSummary } from '@/core/playback/summary';
import type { TraceView } from '@/core/playback/traceView';
import type { TrialRow } from '@/db/kinds';
import { RibbonLegend, RiverLegend } from '../charts/Legend';
import { Empty } from './Empty';
import { Facts, Figure, FigureRow } from './Figure';
import { GradeMark } from './GradeMark';
import { MiddleName } from './MiddleName';
import { DataTable } from '../table/DataTable';
import { Conditions } from '../trial/Conditions';
import { ResultFigures } from '../trial/ResultFigures';
import { SelfCheckReport } from '../trial/SelfCheckReport';
import { SlotReadout } from '../trial/SlotReadout';

import { plainRow } from '../testing/trialRows';

/** What a person reads of a drawn component: its text, narrow spaces made plain. */
function textOf(element: ReactElement): string {
  return renderToStaticMarkup(element)
    .replace(/<[^>]+>/g, ' ')
    .replaceAll('&#x27;', "'")
    .replace(/[\u2009\u202f\s]+/g, ' ')
    .trim();
}

test('a grade reads without colour: by its word and its stones', () => {
  const stones = (grade: 'solid' | 'workable' | 'rough' | 'stalled') =>
    (renderToStaticMarkup(<GradeMark grade={grade} />).match(/fill="currentColor"/g) ?? []).length;
  expect((['solid', 'workable', 'rough', 'stalled'] as const).map(stones)).toEqual([4, 3, 2, 0]);
  expect(textOf(<GradeMark grade="workable" large />)).toBe('workable');
});

test('a long name gives way in the middle and is whole for a screen reader', () => {
  const name = `TW_${'very_'.repeat(40)}long_WALL_0107.mov`;
  const markup = renderToStaticMarkup(<MiddleName name={name} />);
  expect(markup).toContain(`<span class="sr-only">${name}</span>`);
  const seen = [...markup.matchAll(/<span aria-hidden="true"[^>]*>([^<]*)</g)].map(([, part]) => part);
  expect(seen.join('')).toBe(name);
  expect(markup).toContain('>_WALL_0107.mov<');
});

describe('a slot in words', () => {
  const view: TraceView = {
    slots: 5,
    sound: Uint8Array.of(soundState.ready, soundState.underRun, soundState.broken, soundState.silent, 0),
    soundReadMs: Float32Array.of(0.3, Number.NaN, 0.3, Number.NaN, Number.NaN),
    soundDecodeMs: Float32Array.of(0.2, Number.NaN, 0.2, Number.NaN, Number.NaN),
    soundMixMs: Float32Array.of(0.1, Number.NaN, 0.1, Number.NaN, Number.NaN),
    state: Uint8Array.of(
      slotState.shown,
      slotState.late,
      slotState.dropped,
      slotState.wrong,
      slotState.pending,
    ),
    charge: Uint8Array.of(0, 0, causeBit.decode | causeBit.process, 0, 0),
    skipped: Uint8Array.of(0, 0, skippedAt.decode, 0, 0),
    doubtful: Uint8Array.of(1, 0, 1, 0, 0),
    readDepth: new Uint8Array(5).fill(24),
    decodedDepth: new Uint8Array(5).fill(3),
    readyDepth: new Uint8Array(5).fill(4),
    readMs: new Float32Array(5).fill(1.5),
    decodeMs: Float32Array.of(9, 9, Number.NaN, 9, 9),
    processMs: Float32Array.of(4, 4, Number.NaN, 4, 4),
    errorMs: Float32Array.of(0.2, 12, Number.NaN, 0.2, Number.NaN),
    bytes: new Float32Array(5).fill(962_000),
  };
  const read = (slot: number) =>
    textOf(<SlotReadout view={view} slot={slot} timecodeAt={(at) => `07:12:40:0${at}`} />);

  test.each([
    [
      0,
      '07:12:40:00 slot 0 shown; its picture is concealed by the decoder, or built on a frame that is missing read 1.50 ms decode 9.00 ms process 4.00 ms against due 0.20 ms size 962 kB buffers 24 read, 3 decoded, 4 ready sound: read 0.30 ms decode 0.20 ms mix 0.10 ms',
    ],
    [1, '07:12:40:01 slot 1 shown late; its sound was not ready in time read'],
    [
      2,
      '07:12:40:02 slot 2 dropped; decoding and processing together were late; given up before decode; the decoder refused some of its sound read 1.50 ms decode – process – against due –',
    ],
    [3, '07:12:40:03 slot 3 showed a wrong frame'],
    [4, '07:12:40:04 slot 4 not reached'],
  ])('slot %i', (slot, words) => expect(read(slot)).toContain(words));
});

test('the self-check gives its verdict first, then figures per stage', () => {
  const expected = [
    { slot: 36, cause: 'read' },
    { slot: 92, cause: 'decode' },
    { slot: 93, cause: 'decode' },
  ];
  const jitterMs = { p50: 0.17, p95: 0.23, p99: 1.25, max: 2.51 };
  const good = textOf(
    <SelfCheckReport result={{ trusted: true, reasons: [], expected, found: expected, jitterMs }} />,
  );
  expect(good).toMatch(
    /^Measurements on this rig can be trusted 3 of 3 injected drops .* \(read 1 of 1, decode 2 of 2\); 3 drops were found in all\. The timer woke 0\.17 ms late at the median/,
  );
  const bad = textOf(
    <SelfCheckReport
      result={{
        trusted: false,
        reasons: ['1 drop was charged to the wrong stage.'],
        expected,
        found: [
          { slot: 36, cause: 'read' },
          { slot: 92, cause: 'read' },
        ],
        jitterMs,
      }}
    />,
  );
  expect(bad).toMatch(
    /^Measurements on this rig cannot be trusted as it is now 1 drop was charged to the wrong stage\. 1 of 3 .* \(read 1 of 1, decode 0 of 2\)/,
  );
});

const summary: PlaybackSummary = {
  slots: 192,
  shown: 180,
  late: 4,
  dropped: 12,
  wrong: 0,
  grade: 'rough',
  firstDropSlot: 30,
  longestGapSlots: 3,
  dropsPerMinute: 90,
  achievedRate: 22.5,
  timesRealTime: null,
  pacingMs: { p50: 0.15, p95: 2.44, p99: 6.59 },
  serviceMs: { read: 5.01, decode: 32.6, process: 20.4 },
  cures: [],
  attribution: {
    countByCharge: { 1: 9, 8: 3 },
    dropped: 12,
    agreement: 1,
    policyAgreement: 0.97,
    droppedWhenFree: { 1: 3 },
  },
};

function trialOf(change: Partial<TrialRow<'playback'>> = {}): TrialRow<'playback'> {
  const format = {
    container: 'MOV',
    codec: 'ProRes',
    profile: 'Standard',
    bitDepth: 10,
    chroma: '4:2:2',
    width: 1920,
    height: 1080,
    rate: { num: 24, den: 1 },
  };
  const at = new Date(2026, 10, 24, 9, 0);
  return {
    ...plainRow,
    id: 'a',
    kind: 'playback',
    clipId: 'clip',
    progress: { slotCount: 192 },
    summary,
    createdAt: at,
    startedAt: at,
    endedAt: at,
    subject: {
      clipPath: 'wall-camera/TW_WALL_0107.mov',
      volumeName: 'Shuttle SSD',
      volumeKind: 'external',
      volumeFacts: {
        fileSystem: 'ext4',
        device: '/dev/shuttle',
        mountPoint: '/',
        sizeBytes: 2e12,
        freeBytes: 1e12,
        rotational: false,
        writable: true,
      },
      contentHash: 'ab3634a83e2d0011',
      format,
      structure: { intra: true, keyInterval: null, hasBFrames: false, reorderDepth: 0 },
      frames: 192,
      startTimecode: '07:12:40:00',
    },
    settings: {
      scale: 'full',
      policy: 'hold-time',
      threads: 0,
      warm: false,
      meanwhile: 'nothing',
      sound: 'on',
      processing: true,
      buffers: { readAhead: 24, decoded: 3, ready: 4 },
      slotLimit: null,
      faults: [],
    },
    conditions: {
      rig: {
        host: 'slipway',
        processor: 'Two-core processor',
        physicalCores: 2,
        logicalCores: 2,
        memoryBytes: 24 * 2 ** 30,
        graphics: [],
        system: 'Debian 12',
        kernel: '6.1',
        machine: 'virtual',
      },
      rigState: {
        at: '',
        power: 'mains',
        processorGovernor: null,
        loadAverage: 0.1,
        freeMemoryBytes: 2 ** 34,
        busiest: [{ name: 'backup', share: 0.31 }],
      },
      softwareVersion: '0.1.0',
      run: {
        cold: { method: 'direct', residentBefore: 0.882, residentAtStart: 0 },
        startLatencyMs: 321,
        decoder: 'prores',
        decoderThreads: 2,
        threadKind: 'within a frame',
        codecLibrary: 'avcodec 62',
        afterwards: { frameCode: true, scaleCosts: { full: 20_400, half: 9_000, quarter: 4_000 } },
      },
    },
    ...change,
  };
}

test('the figures of a result: what, how much of what, and why', () => {
  const text = textOf(<ResultFigures trial={trialOf()} summary={summary} />);
  for (const part of [
    'Shown 180 4 of them late',
    'Dropped 12 6.3 % 90.0 per minute',
    'First drop 07:12:41:06 slot 30',
    'Longest gap 3 slots 125 ms',
    'Achieved 22.5 /s of 24 per second',
    'Start latency 321 ms',
    'Pacing error p50 0.15 ms',
    'p99 6.59 ms',
    'Why slots dropped',
    'read 9 vanish when the volume takes no time; 3 of all drops are left then',
    'present 3 stay dropped with reading, decoding and processing free',
    'agrees with the run for 100.0 % of slots',
  ])
    expect(text).toContain(part);
  const clean = textOf(
    <ResultFigures
      trial={trialOf()}
      summary={{ ...summary, shown: 192, late: 0, dropped: 0, firstDropSlot: null, longestGapSlots: 0 }}
    />,
  );
  for (const part of ['Shown 192 of 192 slots', 'First drop none', 'Longest gap none'])
    expect(clean).toContain(part);
  expect(clean).not.toContain('Why slots dropped');
});

test('conditions say how cold, on what, and how it is known', () => {
  const text = textOf(
    <Conditions
      trial={trialOf({
        load: { trialMean: 0.8, othersMean: 0.02, othersPeak: 0.2, peakMemoryBytes: 2 ** 28 },
      })}
    />,
  );
  for (const part of [
    'In memory before: 88.2 %; at the start: 0.0 %',
    'Shuttle SSD, external, ext4 on /dev/shuttle, 1.0 TB free',
    'content ab3634a83e2d',
    'full 20.4 ms, half 9.00 ms, quarter 4.00 ms',
    'yes, by the frame number in the picture',
    '24 slots read ahead, 3 decoded, 4 ready',
    'Power mains',
    'backup 31 % of a core',
    'trial 80 %, others 2 % (peak 20 %)',
    'Peak memory 256 MiB',
  ])
    expect(text).toContain(part);
  const early = textOf(<Conditions trial={trialOf({ status: 'crashed', conditions: null })} />);
  expect(early).toContain('The run did not get that far.');
  expect(early).toContain('not reported: the run ended before');
});

test('legends name every mark that the charts draw', () => {
  for (const words of [
    'shown',
    'shown late',
    'dropped, read',
    'dropped, decode',
    'dropped, process',
    'dropped, present',
    'dropped, media',
    'two in one cell: late only together',
  ])
    expect(textOf(<RibbonLegend />)).toContain(words);
  expect(textOf(<RibbonLegend causes={false} />)).toContain('cause named at the end');
  expect(textOf(<RibbonLegend />)).not.toContain('concealed');
  expect(textOf(<RibbonLegend doubtful />)).toContain('on top: concealed, or built on a missing frame');
  expect(textOf(<RibbonLegend wrong />)).toContain('showed a wrong frame');
  expect(textOf(<RiverLegend />)).toContain('present (past due)');
  expect(textOf(<RiverLegend />)).not.toContain('media'); // no stage works on what cannot be decoded
});

test('small parts say what they are given', () => {
  expect(
    textOf(
      <FigureRow columns={4}>
        <Figure name="Shown" note="of 3 slots">
          2
        </Figure>
      </FigureRow>,
    ),
  ).toBe('Shown 2 of 3 slots');
  expect(
    textOf(
      <Facts
        rows={[
          ['Power', 'mains'],
          ['Cores', '2'],
        ]}
      />,
    ),
  ).toBe('Power mains Cores 2');
  expect(
    textOf(
      <Empty title="No clips yet" action="Add a volume">
        They come with a scan.
      </Empty>,
    ),
  ).toBe('No clips yet They come with a scan. Add a volume');
});

describe('a table', () => {
  interface Row {
    id: string;
    name: string;
    drops: number;
  }
  const columns: ColumnDef<Row, never>[] = [
    { accessorKey: 'name', header: 'Clip' },
    { accessorKey: 'drops', header: 'Dropped', meta: { figures: true, text: (row) => `${row.drops} slots` } },
    { accessorKey: 'id', header: 'Id' },
  ];
  const draw = (rows: Row[]) => (
    <DataTable
      label="Runs"
      rows={rows}
      columns={columns}
      rowId={(row) => row.id}
      initialSort={[{ id: 'drops', desc: true }]}
      hidden={{ id: false }}
      fileName="runs"
      empty={<Empty title="No runs">Start one.</Empty>}
    />
  );
  const rows = (count: number): Row[] =>
    Array.from({ length: count }, (_, index) => ({
      id: `id-${index}`,
      name: `clip ${index}`,
      drops: (index * 37) % 101,
    }));

  test('with no row shows what belongs there', () => {
    expect(textOf(draw([]))).toBe('No runs Start one.');
  });

  test('with one row says so, and hides what was not asked for', () => {
    const text = textOf(draw(rows(1)));
    expect(text).toContain('1 row ');
    expect(text).not.toContain('id-0');
  });

  test('with 500 rows draws those in sight, sorted, and tells how many there are', () => {
    const markup = renderToStaticMarkup(draw(rows(500)));
    expect(markup).toContain('aria-rowcount="501"');
    expect(markup).toContain('500 rows');
    expect(markup).toContain('aria-sort="descending"');
    const drops = [...markup.matchAll(/text-right">(\d+)<\/td>/g)].map(([, value]) => Number(value));
    expect(drops.length).toBeGreaterThan(10);
    expect(drops.length).toBeLessThan(100);
    expect(drops).toEqual([...drops].sort((a, b) => b - a));
  });
});
