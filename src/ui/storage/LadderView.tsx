'use client';
import { fixed, megabytesPerSecond, percent } from '@/core/format';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import Link from 'next/link';
import { useMemo, useState } from 'react';
import { ladderCell, type LadderCell, type Rung } from '@/core/storage/ladder';
import { requiredRate, type Fit, type Usage } from '@/core/storage/required';
import { LadderChart } from '../charts/LadderChart';
import { Choice } from '../parts/Choice';
import { Empty } from '../parts/Empty';
import { NumberField } from '../parts/Field';
import { MiddleName } from '../parts/MiddleName';
import { Simulated } from '../parts/Simulated';
import { useCommands } from '../keys/commands';
import { useLive } from '../shell/useLive';
import { DataTable } from '../table/DataTable';
import { CameraFormats } from './CameraFormats';
import { bandsOf, clipRungs, formatRungs, type LadderPage, type VolumeBand } from './ladderData';
import type { CameraFormatRow } from '../pages';
import { ladderSentence } from '@/core/sentences/storage';

const speeds = ['1', '2', '4', '8'] as const;

/** Which formats play from which volume, with how much headroom and how many streams. */
export function LadderView({
  page: initial,
  formats: initialFormats,
}: {
  page: LadderPage;
  formats: CameraFormatRow[];
}) {
  const [page] = useLive(
    initial,
    'GET /api/storage/ladder',
    (event) =>
      (event.type === 'volume' && event.finished) ||
      (event.type === 'trial-status' && event.kind === 'throughput' && event.status === 'done'),
  );
  const [formats, reloadFormats] = useLive(initialFormats, 'GET /api/camera-formats', () => false);
  const [shown, setShown] = useState<'both' | 'clips' | 'formats'>('both');
  const { usage, fields } = useUsage();
  const { bands, unknown } = useMemo(() => bandsOf(page), [page]);
  const rungs = useMemo(
    () => [
      ...(shown === 'formats' ? [] : clipRungs(page)),
      ...(shown === 'clips' ? [] : formatRungs(formats)),
    ],
    [page, formats, shown],
  );
  const { rung, band, select } = useSelection(rungs, bands, usage);
  return (
    <div className="flex max-w-6xl flex-col gap-4">
      <h1 aria-live="polite" data-testid="answer" className="min-h-[2.5em]">
        {rung && band
          ? ladderSentence(rung.name, band.name, ladderCell(rung, band, usage), usage.streams)
          : 'Which format plays from which volume'}
      </h1>
      {rung && band && <Rests rung={rung} band={band} usage={usage} />}
      <div className="flex flex-wrap items-end gap-4">
        <Choice
          label="Rungs"
          value={shown}
          onChange={setShown}
          options={[
            ['both', 'Clips and formats'],
            ['clips', 'Clips'],
            ['formats', 'Camera formats'],
          ]}
        />
        {fields}
        <p className="text-xs text-muted">Keys: ↑ ↓ format, ← → volume</p>
      </div>
      {bands.length === 0 || rungs.length === 0 ? (
        <Empty
          title={bands.length === 0 ? 'No volume is measured yet' : 'No format to show'}
          action={
            <Link prefetch={false} className="underline" href="/storage">
              {bands.length === 0 ? 'Measure a volume' : 'Add a volume with clips'}
            </Link>
          }
        >
          The ladder sets formats against the rates that volumes were measured to sustain.
        </Empty>
      ) : (
        <>
          <LadderChart
            rungs={rungs}
            bands={bands}
            usage={usage}
            rungId={rung?.id ?? null}
            bandId={band?.id ?? null}
            onSelect={select}
          />
          <LadderLegend bands={bands} unknown={unknown} />
          <LadderTable rungs={rungs} bands={bands} usage={usage} />
        </>
      )}
      <CameraFormats formats={formats} reload={reloadFormats} />
    </div>
  );
}

/** What is asked of the volumes: streams, shuttle speed and margin. */
function useUsage() {
  const [form, setForm] = useState({ streams: '1', margin: '25' });
  const [speed, setSpeed] = useState<(typeof speeds)[number]>('1');
  const usage = useMemo<Usage>(
    () => ({
      streams: positive(form.streams, 1),
      speed: Number(speed),
      margin: positive(form.margin, 0) / 100,
    }),
    [form, speed],
  );
  const fields = (
    <>
      <NumberField
        label="Streams"
        value={form.streams}
        onChange={(streams) => setForm({ ...form, streams })}
        className="w-20"
      />
      <Choice
        label="Shuttle speed"
        value={speed}
        onChange={setSpeed}
        options={speeds.map((value) => [value, `${value}x`] as const)}
      />
      <NumberField
        label="Margin"
        value={form.margin}
        onChange={(margin) => setForm({ ...form, margin })}
        unit="%"
        className="w-24"
      />
    </>
  );
  return { usage, fields };
}

/** A number above zero, or what stands in for it. */
function positive(text: string, otherwise: number): number {
  const value = Number(text);
  return Number.isFinite(value) && value > 0 ? value : otherwise;
}

/** Chosen rung and band; arrows move by rate and by column. Nothing chosen yet means the most demanding rung and the first volume. */
function useSelection(rungs: readonly Rung[], bands: readonly VolumeBand[], usage: Usage) {
  const [chosen, setChosen] = useState<{ rung: string | null; band: string | null }>({
    rung: null,
    band: null,
  });
  const byRate = useMemo(
    () =>
      rungs.toSorted(
        (a, b) => requiredRate(b.demand, usage).required - requiredRate(a.demand, usage).required,
      ),
    [rungs, usage],
  );
  useCommands(
    useMemo(() => {
      // From the choice as it is, not as it was drawn last: keys may come faster than pictures.
      const move = (rungBy: number, bandBy: number) =>
        setChosen((now) => ({ rung: step(byRate, now.rung, rungBy), band: step(bands, now.band, bandBy) }));
      return [
        {
          id: 'rung-up',
          label: 'Next faster format',
          group: 'Ladder',
          key: 'ArrowUp',
          run: () => move(-1, 0),
        },
        {
          id: 'rung-down',
          label: 'Next slower format',
          group: 'Ladder',
          key: 'ArrowDown',
          run: () => move(1, 0),
        },
        {
          id: 'band-left',
          label: 'Volume to the left',
          group: 'Ladder',
          key: 'ArrowLeft',
          run: () => move(0, -1),
        },
        {
          id: 'band-right',
          label: 'Volume to the right',
          group: 'Ladder',
          key: 'ArrowRight',
          run: () => move(0, 1),
        },
      ];
    }, [byRate, bands]),
  );
  const rung = byRate[placeOf(byRate, chosen.rung)] ?? null;
  const band = bands[placeOf(bands, chosen.band)] ?? null;
  return {
    rung,
    band,
    select: (nextRung: string | null, nextBand: string | null) =>
      setChosen({ rung: nextRung, band: nextBand }),
  };
}

/** Place of an item in a list; the first where it is not there, or none is chosen. */
function placeOf(items: readonly { readonly id: string }[], id: string | null): number {
  return Math.max(
    0,
    items.findIndex((item) => item.id === id),
  );
}

/** The item so many places on from another, within the list. */
function step(items: readonly { readonly id: string }[], id: string | null, by: number): string | null {
  return items[Math.min(items.length - 1, Math.max(0, placeOf(items, id) + by))]?.id ?? null;
}

/** What the sentence above rests on. */
function Rests({ rung, band, usage }: { rung: Rung; band: VolumeBand; usage: Usage }) {
  const rate = requiredRate(rung.demand, usage);
  return (
    <p className="-mt-2 min-h-[2.9em] text-sm text-muted">
      {rung.detail}. Needs {megabytesPerSecond(rate.mean)} on average, {megabytesPerSecond(rate.peak)} in its
      largest second, {megabytesPerSecond(rate.required)} with the margin. {band.name}{' '}
      {band.from === 'measured' ? 'was measured to sustain' : 'is forecast by its model to sustain'}{' '}
      {megabytesPerSecond(band.sustained)}
      {band.doubt && `, ${band.doubt}`}. {band.simulated && <Simulated />}
    </p>
  );
}

function LadderLegend({ bands, unknown }: { bands: readonly VolumeBand[]; unknown: readonly string[] }) {
  const line = (dash: string | undefined, colour: string, width: number) => (
    <svg aria-hidden width="30" height="10" className="mr-1.5 inline-block align-[-1px]">
      <line x1="0" x2="30" y1="5" y2="5" stroke={colour} strokeWidth={width} strokeDasharray={dash} />
    </svg>
  );
  return (
    <ul aria-label="Legend of the ladder" className="flex flex-wrap gap-x-5 gap-y-1 text-xs text-muted">
      <li>{line(undefined, 'var(--ink)', 1.4)}plays</li>
      <li>{line('7 4', 'var(--ink)', 1.4)}plays inside the margin</li>
      <li>{line('1 6', 'var(--ink)', 1.4)}too slow</li>
      <li>{line(undefined, 'var(--cause-read)', 4)}foot: sustained rate</li>
      <li>
        <svg aria-hidden width="18" height="10" className="mr-1.5 inline-block align-[-1px]">
          <rect width="18" height="10" fill="var(--slot)" fillOpacity="0.45" stroke="var(--slot)" />
        </svg>
        p5 to p95
      </li>
      {bands.some(({ from }) => from === 'forecast') && (
        <li>{line('6 3', 'var(--cause-read)', 4)}forecast by a model, not measured</li>
      )}
      {bands.some(({ simulated }) => simulated) && (
        <li>
          Simulated:{' '}
          {bands
            .filter(({ simulated }) => simulated)
            .map(({ name }) => name)
            .join(', ')}
        </li>
      )}
      {unknown.length > 0 && <li className="text-signal-text">Not measured: {unknown.join(', ')}</li>}
    </ul>
  );
}

const fitShapes: Record<Fit, string> = { plays: '■', 'without margin': '◧', 'too slow': '□' };

function cellText({ fit, headroom, streams }: LadderCell): string {
  return `${fit}, ${headroom >= 0 ? '+' : '−'}${percent(Math.abs(headroom), 0)}, ${streams} ${streams === 1 ? 'stream' : 'streams'}`;
}

const column = createColumnHelper<Rung>();

/** The same as the ladder, as a table. */
function LadderTable({ rungs, bands, usage }: { rungs: Rung[]; bands: readonly VolumeBand[]; usage: Usage }) {
  const columns = useMemo(
    () =>
      [
        column.accessor('name', {
          header: 'Format',
          cell: ({ row: { original } }) => (
            <span className="block min-w-40" title={original.detail}>
              <MiddleName name={original.name} />
            </span>
          ),
        }),
        ...(['mean', 'peak', 'required'] as const).map((part) =>
          column.accessor((rung) => requiredRate(rung.demand, usage)[part], {
            id: part,
            header: { mean: 'Mean', peak: 'Peak, 1 s', required: 'With margin' }[part],
            meta: {
              figures: true,
              text: (rung) => fixed(requiredRate(rung.demand, usage)[part] / 1e6, 1),
            },
            cell: ({ getValue }) => megabytesPerSecond(getValue()),
          }),
        ),
        ...bands.map((band) =>
          column.accessor((rung) => ladderCell(rung, band, usage).headroom, {
            id: band.id,
            header: band.name,
            meta: { text: (rung) => cellText(ladderCell(rung, band, usage)) },
            cell: ({ row: { original } }) => {
              const cell = ladderCell(original, band, usage);
              return (
                <span className={`block min-w-32 ${cell.fit === 'too slow' ? 'text-muted' : ''}`}>
                  <span aria-hidden>{fitShapes[cell.fit]} </span>
                  {cellText(cell)}
                </span>
              );
            },
          }),
        ),
      ] as ColumnDef<Rung, never>[],
    [bands, usage],
  );
  return (
    <details>
      <summary className="w-fit text-sm text-muted hover:text-ink">The same as a table</summary>
      <div className="mt-2">
        <DataTable
          label="Ladder"
          rows={rungs}
          columns={columns}
          rowId={(rung) => rung.id}
          initialSort={[{ id: 'required', desc: true }]}
          hidden={{ mean: false }}
          fileName="navvy-ladder"
          empty={null}
        />
      </div>
    </details>
  );
}
