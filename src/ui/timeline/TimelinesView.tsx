'use client';
import { count, dateTime } from '@/core/format';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { TimelineListRow } from '@/db/queries/timelines';
import { plainName } from '@/core/simulated';
import type { LibraryClip } from '@/server/media';
import type { ImportReport } from '@/server/timelines';
import { Button } from '../parts/Button';
import { Choice } from '../parts/Choice';
import { Empty } from '../parts/Empty';
import { figure, figureOrNull, FormError, NumberField, SelectField, TextField } from '../parts/Field';
import { MiddleName } from '../parts/MiddleName';
import { DataTable } from '../table/DataTable';
import { useSend } from '../useSend';
import { rateFrom, rateOptions, relinkWords } from './words';

const column = createColumnHelper<TimelineListRow>();
const columns = [
  column.accessor('name', {
    header: 'Name',
    meta: { rowName: true },
    cell: ({ row: { original } }) => (
      <Link
        prefetch={false}
        href={`/timelines/${original.id}`}
        className="flex min-w-0 underline decoration-edge underline-offset-4"
      >
        <MiddleName name={original.name} />
      </Link>
    ),
  }),
  column.accessor('slots', {
    header: 'Slots',
    meta: { figures: true },
    cell: ({ getValue }) => count(getValue()),
  }),
  column.accessor((row) => row.updatedAt, {
    id: 'updated',
    header: 'Last edit',
    meta: { text: (row) => dateTime(row.updatedAt) },
    cell: ({ row }) => <span className="figure whitespace-nowrap">{dateTime(row.original.updatedAt)}</span>,
  }),
  column.display({
    id: 'runs',
    header: 'Runs',
    cell: ({ row }) => (
      <Link
        prefetch={false}
        href={`/timelines/${row.original.id}/runs`}
        className="underline decoration-edge underline-offset-4"
      >
        Runs of it
      </Link>
    ),
  }),
] as ColumnDef<TimelineListRow, never>[];

type Start = 'new' | 'import' | 'load';

/** Timelines to play, and the ways to begin one. */
export function TimelinesView({ timelines, clips }: { timelines: TimelineListRow[]; clips: LibraryClip[] }) {
  const [start, setStart] = useState<Start>('new');
  return (
    <div className="flex flex-col gap-5">
      <h1>What would an editor really cut?</h1>
      <section aria-label="Begin a timeline" className="border bg-surface p-4">
        <Choice
          label="Begin with"
          value={start}
          onChange={setStart}
          options={[
            ['new', 'An empty timeline'],
            ['load', 'A test load'],
            ['import', 'An interchange file'],
          ]}
        />
        <div className="mt-3">
          {start === 'new' && <NewTimeline />}
          {start === 'load' && <BuildLoad clips={clips} timelines={timelines} />}
          {start === 'import' && <ImportTimeline />}
        </div>
      </section>
      <DataTable
        label="Timelines"
        rows={timelines}
        columns={columns}
        rowId={({ id }) => id}
        fileName="navvy-timelines"
        empty={
          <Empty title="There is no timeline yet">
            A timeline holds what is played in a trial: clips on tracks, with grades, titles and speed
            changes. Begin one above.
          </Empty>
        }
      />
    </div>
  );
}

function NewTimeline() {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const [name, setName] = useState('');
  const [rate, setRate] = useState('24/1');
  const [width, setWidth] = useState('1920');
  const [height, setHeight] = useState('1080');
  const begin = async () => {
    const made = await send('POST /api/timelines', {
      body: {
        name,
        rate: rateFrom(rate),
        width: figure(width),
        height: figure(height),
      },
    });
    if (made) router.push(`/timelines/${made.id}`);
  };
  return (
    <form
      aria-label="New timeline"
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void begin();
      }}
    >
      <TextField
        label="Name"
        value={name}
        onChange={setName}
        className="min-w-64 flex-1"
        invalid={error?.field === 'name'}
      />
      <SelectField
        label="Slots per second"
        value={rate}
        onChange={setRate}
        options={rateOptions}
        className="w-28"
      />
      <NumberField
        label="Width"
        value={width}
        onChange={setWidth}
        invalid={error?.field === 'width'}
        className="w-24"
      />
      <NumberField
        label="Height"
        value={height}
        onChange={setHeight}
        invalid={error?.field === 'height'}
        className="w-24"
      />
      <Button look="main" type="submit" disabled={busy}>
        Begin
      </Button>
      <FormError message={error?.message} />
      <p className="w-full text-xs text-muted">The first clip that is put in sets rate and raster anew.</p>
    </form>
  );
}

const loads = [
  ['streams', 'n streams of a clip side by side'],
  ['grades', 'a clip under n grades'],
  ['run-through', 'a run-through of all formats'],
  ['conform', 'a timeline at another rate'],
  ['worst-minute', 'the heaviest minute of a timeline'],
] as const;
type LoadKind = (typeof loads)[number][0];

function BuildLoad({ clips, timelines }: { clips: LibraryClip[]; timelines: TimelineListRow[] }) {
  const router = useRouter();
  const { busy, error, send } = useSend();
  const [kind, setKind] = useState<LoadKind>('streams');
  const [clipId, setClipId] = useState(clips[0]?.id ?? '');
  const [timelineId, setTimelineId] = useState(timelines[0]?.id ?? '');
  const [amount, setAmount] = useState('4');
  const [seconds, setSeconds] = useState('');
  const [rate, setRate] = useState('25/1');
  const ofClip = kind === 'streams' || kind === 'grades';
  // Of a run-through each content comes once, wherever its copies lie.
  const each = [...new Map(clips.map((clip) => [clip.contentHash ?? clip.id, clip])).values()].map(
    ({ id }) => id,
  );
  const build = async () => {
    const body = {
      kind,
      clipIds: ofClip ? [clipId] : kind === 'run-through' ? each : [],
      timelineId: kind === 'conform' || kind === 'worst-minute' ? timelineId : null,
      count: figure(amount),
      seconds: figureOrNull(seconds),
      rate: kind === 'conform' ? rateFrom(rate) : null,
    };
    const made = await send('POST /api/timelines/load', { body: body });
    if (made) router.push(`/timelines/${made.id}`);
  };
  return (
    <form
      aria-label="Build a test load"
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        void build();
      }}
    >
      <SelectField
        label="Load"
        value={kind}
        onChange={(value) => setKind(value as LoadKind)}
        options={loads}
        className="w-64"
      />
      {ofClip && (
        <SelectField
          label="Clip"
          value={clipId}
          onChange={setClipId}
          options={clips.map((clip) => [
            clip.id,
            `${clip.path} — ${plainName(clip.volumeName, clip.simulated)}`,
          ])}
          className="min-w-64 flex-1"
          invalid={error?.field === 'clipIds'}
        />
      )}
      {ofClip && (
        <NumberField
          label={kind === 'streams' ? 'Streams' : 'Grades'}
          value={amount}
          onChange={setAmount}
          invalid={error?.field === 'count'}
          className="w-20"
        />
      )}
      {(kind === 'conform' || kind === 'worst-minute') && (
        <SelectField
          label="Timeline"
          value={timelineId}
          onChange={setTimelineId}
          options={timelines.map(({ id, name }) => [id, name])}
          className="min-w-64 flex-1"
          invalid={error?.field === 'timelineId'}
        />
      )}
      {kind === 'conform' && (
        <SelectField
          label="Slots per second"
          value={rate}
          onChange={setRate}
          options={rateOptions}
          className="w-28"
        />
      )}
      {(ofClip || kind === 'run-through') && (
        <NumberField
          label={kind === 'run-through' ? 'Of each' : 'Length'}
          unit="s"
          placeholder={kind === 'run-through' ? '3' : 'all'}
          value={seconds}
          onChange={setSeconds}
          invalid={error?.field === 'seconds'}
          className="w-24"
        />
      )}
      <Button look="main" type="submit" disabled={busy}>
        Build
      </Button>
      <FormError message={error?.message} />
    </form>
  );
}

function ImportTimeline() {
  const { busy, error, send } = useSend();
  const [rate, setRate] = useState('24/1');
  const [report, setReport] = useState<ImportReport | null>(null);
  const take = async (file: File | undefined) => {
    if (!file) return;
    setReport(null);
    setReport(
      await send('POST /api/timelines/import', {
        body: {
          fileName: file.name,
          text: await file.text(),
          rate: rateFrom(rate),
        },
      }),
    );
  };
  return (
    <div className="flex flex-wrap items-end gap-3">
      <label className="block text-sm">
        <span className="mb-1 block text-xs text-muted">OpenTimelineIO (.otio) or CMX 3600 (.edl)</span>
        <input
          type="file"
          accept=".otio,.edl,.json,.txt"
          aria-label="Interchange file"
          disabled={busy}
          onChange={(event) => {
            void take(event.target.files?.[0]);
            event.target.value = '';
          }}
          className="file:mr-3 file:h-9 file:border file:border-edge file:bg-raised file:px-3 file:text-ink"
        />
      </label>
      <SelectField
        label="Rate of an edit list, which it does not carry"
        value={rate}
        onChange={setRate}
        options={rateOptions}
        className="w-72"
      />
      <FormError message={error?.message} />
      {report && (
        <div role="status" className="w-full border-l-4 border-signal pl-3 text-sm">
          <p>
            The timeline is in.{' '}
            <Link prefetch={false} href={`/timelines/${report.id}`} className="underline">
              Open it
            </Link>
          </p>
          <ul className="mt-1 text-xs text-muted">
            {report.found.map(({ name, by }) => (
              <li key={name}>
                {name}: linked by {relinkWords[by]}
              </li>
            ))}
            {report.missing.map((name) => (
              <li key={name} className="text-signal-text">
                {name}: not in the library. Add its volume, scan it, then relink in the timeline.
              </li>
            ))}
            {report.notes.map((note) => (
              <li key={note}>{note}</li>
            ))}
          </ul>
        </div>
      )}
    </div>
  );
}
