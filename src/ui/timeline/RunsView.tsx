'use client';
import { dateTime } from '@/core/format';
import Link from 'next/link';
import { useEffect, useMemo, useState } from 'react';
import { answerSentence } from '@/core/sentences/playback';
import { soundState } from '@/core/playback/sound';
import { slotState } from '@/core/playback/slots';
import type { TimelineSubject } from '@/core/timeline/subject';
import { decodeTraceView, type TraceView } from '@/core/playback/traceView';
import { clipTimecode } from '@/core/time/clipTimecode';
import { toNumber } from '@/core/time/rational';
import { courseSlot } from '@/core/timeline/flatten';
import type { TimelineRun } from '@/db/queries/trials';
import type { ListPart } from '@/server/trials/trialList';
import { RibbonLegend } from '../charts/Legend';
import { worseSound, type RibbonData } from '../charts/paintRibbon';
import { Axis, Ribbon } from '../charts/SlotChart';
import type { SlotRange } from '../charts/slotAxis';
import { zoomRange } from '../charts/slotAxis';
import { Button } from '../parts/Button';
import { Empty } from '../parts/Empty';
import { GradeMark } from '../parts/GradeMark';
import { TrialList } from '../trials/TrialList';
import { courseWords, policyWords } from '../trialWords';
import { CourseStrip, usePlayedTimeline } from './PlayedTimeline';
import { addressOf } from '../api';
import { Select } from '../parts/Select';

const mostShown = 8;

/** Runs of one timeline with different settings, laid over each other on its own axis. */
export function RunsView({
  name,
  timelineId,
  runs,
  list,
}: {
  name: string;
  timelineId: string;
  runs: readonly TimelineRun[];
  list: ListPart;
}) {
  const played = useMemo(() => runs.filter((run) => run.summary !== null), [runs]);
  const versions = [...new Set(played.map(({ subject }) => subject.timeline.version))].sort((a, b) => b - a);
  const [version, setVersion] = useState(versions[0] ?? 0);
  const shown = played.filter(({ subject }) => subject.timeline.version === version).slice(0, mostShown);
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-wrap items-baseline gap-x-4 text-sm text-muted">
        <Link
          prefetch={false}
          href={`/timelines/${timelineId}`}
          className="underline decoration-edge underline-offset-4"
        >
          {name}
        </Link>
        {versions.length > 1 && (
          <label className="flex items-center gap-2">
            Version{' '}
            <Select
              label="Version"
              value={String(version)}
              onChange={(one) => setVersion(Number(one))}
              options={versions.map((one) => [String(one), String(one)])}
              low
            />
          </label>
        )}
      </div>
      <h1>
        {shown.length === 0
          ? 'No run of this timeline yet'
          : `${shown.length} ${shown.length === 1 ? 'run' : 'runs'} of version ${version}, one above the other`}
      </h1>
      {shown.length === 0 ? (
        <Empty
          title="Nothing was played"
          action={
            <Link prefetch={false} className="underline" href={`/timelines/${timelineId}`}>
              Play and measure it
            </Link>
          }
        >
          Runs with different settings lie here over one timeline, so that what one drops and another does not
          can be seen.
        </Empty>
      ) : (
        <Overlay key={version} runs={shown} />
      )}
      <TrialList list={list} label="Trials" figures={['dropped', 'startLatency']} empty={null} />
    </div>
  );
}

function Overlay({ runs }: { runs: readonly TimelineRun[] }) {
  const [newest] = runs;
  const subject = newest?.subject as TimelineSubject;
  const { slots } = subject.timeline;
  const [range, setRange] = useState<SlotRange>({ from: 0, to: slots });
  const whole = useMemo(
    () => ({ ...subject.timeline, course: { from: 0, slots, speed: 1 } }),
    [subject, slots],
  );
  const played = usePlayedTimeline(whole);
  const timecodeAt = useMemo(() => clipTimecode(subject.startTimecode, subject.timeline.rate), [subject]);
  const views = useTraces(runs);
  return (
    <section aria-label="Runs over the timeline" className="flex flex-col gap-1">
      <RangeTools range={range} onRange={setRange} slots={slots} />
      {runs.map((run) => (
        <RunOnTimeline key={run.id} run={run} view={views.get(run.id)} range={range} />
      ))}
      {played && <CourseStrip strip={played.strip} range={range} timecodeAt={timecodeAt} />}
      <Axis range={range} timecodeAt={timecodeAt} />
      <RibbonLegend />
    </section>
  );
}

/** Closer, further, along. */
function RangeTools({
  range,
  onRange,
  slots,
}: {
  range: SlotRange;
  onRange: (range: SlotRange) => void;
  slots: number;
}) {
  const middle = (range.from + range.to) / 2;
  return (
    <div data-no-print className="flex gap-1">
      {(
        [
          ['Zoom out', '−', zoomRange(range, 0.5, middle, slots)],
          ['Zoom in', '+', zoomRange(range, 2, middle, slots)],
          ['Earlier', '←', moved(range, -0.5, slots)],
          ['Later', '→', moved(range, 0.5, slots)],
        ] as const
      ).map(([name, sign, to]) => (
        <Button
          key={name}
          look="quiet"
          className="h-7 first:ml-auto"
          aria-label={name}
          onClick={() => onRange(to)}
        >
          {sign}
        </Button>
      ))}
      <Button look="quiet" className="h-7" onClick={() => onRange({ from: 0, to: slots })}>
        All
      </Button>
    </div>
  );
}

/** A run in words, and its slots where they lie on the timeline. */
function RunOnTimeline({
  run,
  view,
  range,
}: {
  run: TimelineRun;
  view: ReturnType<ReturnType<typeof useTraces>['get']>;
  range: SlotRange;
}) {
  const { settings, summary } = run;
  return (
    <div>
      <p className="flex flex-wrap items-center gap-x-4 text-sm">
        <Link
          prefetch={false}
          href={`/trials/${run.id}`}
          className="underline decoration-edge underline-offset-4"
        >
          {settings.scale} scale, {courseWords(run.subject.timeline)}
        </Link>
        {summary?.grade && <GradeMark grade={summary.grade} />}
        <span className="text-muted">
          {policyWords[settings.policy]}
          {settings.warm ? ', warm' : ''}, {dateTime(run.createdAt)}
        </span>
        <span className="min-w-0 truncate text-muted">
          {summary && answerSentence(summary, toNumber(run.subject.timeline.rate))}
        </span>
      </p>
      <div className="border bg-surface">
        {view ? (
          <Ribbon data={onTimeline(view, run.subject)} range={range} />
        ) : (
          <div aria-busy className="h-[72px]" />
        )}
      </div>
    </div>
  );
}

function moved(range: SlotRange, share: number, slots: number): SlotRange {
  const span = range.to - range.from;
  const from = Math.min(Math.max(0, range.from + share * span), slots - span);
  return { from, to: from + span };
}

/** A run's slots at their places on the timeline: the worse where it passed a place more than once, pending where it never came. */
export function onTimeline(
  view: Pick<TraceView, 'slots' | 'state' | 'charge' | 'doubtful' | 'sound'>,
  { timeline: { course, slots } }: TimelineSubject,
): RibbonData {
  const state = new Uint8Array(slots);
  const charge = new Uint8Array(slots);
  const doubtful = new Uint8Array(slots);
  const sound = new Uint8Array(slots);
  for (let slot = 0; slot < view.slots; slot++) {
    const at = courseSlot(course, slot);
    if (at < 0 || at >= slots) continue;
    sound[at] = worseSound(sound[at] as number, view.sound[slot] ?? soundState.silent);
    const now = view.state[slot] ?? slotState.pending;
    if (now < (state[at] as number)) continue;
    state[at] = now;
    charge[at] = view.charge[slot] ?? 0;
    doubtful[at] = view.doubtful[slot] ?? 0;
  }
  return { slots, state, charge, doubtful, sound };
}

function useTraces(runs: readonly TimelineRun[]): ReadonlyMap<string, TraceView> {
  const [views, setViews] = useState<ReadonlyMap<string, TraceView>>(new Map());
  const ids = runs.map(({ id }) => id).join(',');
  useEffect(() => {
    const control = new AbortController();
    for (const id of ids.split(',').filter(Boolean)) {
      fetch(addressOf('GET /api/trials/{id}/trace', { ids: { id } }), { signal: control.signal })
        .then(async (response) => {
          if (!response.ok) return;
          const view = decodeTraceView(await response.arrayBuffer());
          setViews((before) => new Map(before).set(id, view));
        })
        .catch(() => undefined);
    }
    return () => control.abort();
  }, [ids]);
  return views;
}
