'use client';
import { count, dateTime } from '@/core/format';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import { loadInput, timelineInput } from '@/core/asked/timelines';
import type { TimelineListRow } from '@/db/queries/timelines';
import type { LibraryClip } from '@/server/library/clipList';
import { Form, FormNumberField, FormProblems, FormSelect, FormTextField } from '../form/Form';
import { useRequestForm, useTyped } from '../form/useRequestForm';
import { Button } from '../parts/Button';
import { Choice } from '../parts/Choice';
import { ClipChoice } from '../parts/ClipChoice';
import { SearchChoice, searchIn } from '../parts/SearchChoice';
import { Empty } from '../parts/Empty';
import { figure, figureOrNull } from '../parts/Field';
import { MiddleName } from '../parts/MiddleName';
import { DataTable } from '../table/DataTable';
import { ImportTimeline } from './ImportTimeline';
import { rateFrom, rateOptions } from './words';

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
        Runs of this timeline
      </Link>
    ),
  }),
] as ColumnDef<TimelineListRow, never>[];

type Start = 'new' | 'import' | 'load';

/** Timelines to play, and the ways to begin one. */
export function TimelinesView({
  timelines,
  firstClip,
}: {
  timelines: TimelineListRow[];
  firstClip: LibraryClip | null;
}) {
  const [start, setStart] = useState<Start>('new');
  return (
    <div className="flex flex-col gap-5">
      <h1>What would an editor really cut?</h1>
      <section aria-label="New timeline" className="border bg-surface p-4">
        <Choice
          label="Start with"
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
          {start === 'load' && <BuildLoad firstClip={firstClip} timelines={timelines} />}
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
            changes. Create one above.
          </Empty>
        }
      />
    </div>
  );
}

function NewTimeline() {
  const router = useRouter();
  const beginning = useRequestForm('POST /api/timelines', {
    schema: timelineInput,
    defaults: { name: '', rate: '24/1', width: '1920', height: '1080' },
    bodyOf: ({ name, rate, width, height }) => ({
      name,
      rate: rateFrom(rate),
      width: figure(width),
      height: figure(height),
    }),
  });
  return (
    <Form
      of={beginning}
      label="New timeline"
      className="flex flex-wrap items-start gap-3"
      onSubmit={async () => {
        const made = await beginning.send();
        if (made) router.push(`/timelines/${made.id}`);
      }}
    >
      <FormTextField name="name" label="Name" className="min-w-64 flex-1" />
      <FormSelect name="rate" label="Slots per second" options={rateOptions} className="w-28" />
      <FormNumberField name="width" label="Width" className="w-24" />
      <FormNumberField name="height" label="Height" className="w-24" />
      <Button look="main" type="submit" disabled={beginning.busy} className="mt-5">
        Begin
      </Button>
      <FormProblems />
      <p className="w-full text-xs text-muted">The first clip inserted sets rate and raster.</p>
    </Form>
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
const isOfClip = (kind: LoadKind) => kind === 'streams' || kind === 'grades';
const isOfTimeline = (kind: LoadKind) => kind === 'conform' || kind === 'worst-minute';

/** A load as it is chosen; figures are text. */
interface LoadTyped extends Record<'count' | 'seconds' | 'rate', string> {
  readonly kind: LoadKind;
}

function BuildLoad({
  firstClip,
  timelines,
}: {
  firstClip: LibraryClip | null;
  timelines: TimelineListRow[];
}) {
  const router = useRouter();
  const [clip, setClip] = useState(firstClip);
  const [timeline, setTimeline] = useState(timelines[0]);
  const building = useRequestForm<'POST /api/timelines/load', LoadTyped>('POST /api/timelines/load', {
    schema: loadInput,
    defaults: { kind: 'streams', count: '4', seconds: '', rate: '25/1' },
    bodyOf: ({ kind, count, seconds, rate }) => ({
      kind,
      clipIds: isOfClip(kind) && clip ? [clip.id] : [],
      timelineId: isOfTimeline(kind) ? (timeline?.id ?? null) : null,
      count: figure(count),
      seconds: figureOrNull(seconds),
      rate: kind === 'conform' ? rateFrom(rate) : null,
    }),
  });
  const { kind } = useTyped(building);
  const searchTimelines = useMemo(() => searchIn(timelines), [timelines]);
  return (
    <Form
      of={building}
      label="Build a test load"
      className="flex flex-wrap items-start gap-3"
      onSubmit={async () => {
        const made = await building.send();
        if (made) router.push(`/timelines/${made.id}`);
      }}
    >
      <FormSelect name="kind" label="Load" options={loads} className="w-64" />
      {isOfClip(kind) && (
        <>
          <ClipChoice value={clip} onChange={setClip} invalid={building.isWrong('clipIds')} />
          <FormNumberField name="count" label={kind === 'streams' ? 'Streams' : 'Grades'} className="w-20" />
        </>
      )}
      {isOfTimeline(kind) && (
        <SearchChoice
          label="Timeline"
          value={timeline ?? null}
          onChange={setTimeline}
          search={searchTimelines}
          placeholder="Choose a timeline"
          invalid={building.isWrong('timelineId')}
          className="flex-1 basis-64"
        />
      )}
      {kind === 'conform' && (
        <FormSelect name="rate" label="Slots per second" options={rateOptions} className="w-28" />
      )}
      {(isOfClip(kind) || kind === 'run-through') && (
        <FormNumberField
          name="seconds"
          label={kind === 'run-through' ? 'Of each' : 'Length'}
          unit="s"
          placeholder={kind === 'run-through' ? '3' : 'all'}
          className="w-24"
        />
      )}
      <Button look="main" type="submit" disabled={building.busy} className="mt-5">
        Build
      </Button>
      <FormProblems />
    </Form>
  );
}
