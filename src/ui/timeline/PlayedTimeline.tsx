'use client';
import { count } from '@/core/format';
import Link from 'next/link';
import { useCallback, useEffect, useMemo, useState } from 'react';
import type { TimelineSubject } from '@/core/timeline/subject';
import { courseStrip } from '@/core/timeline/courseStrip';
import { courseContents, courseSlot } from '@/core/timeline/flatten';
import type { Timeline } from '@/core/timeline/model';
import { partOfSlot, type PartCharge } from '@/core/timeline/parts';
import { clipTimecode } from '@/core/time/clipTimecode';
import { callApi } from '../api';
import type { SlotRange } from '../charts/slotAxis';
import { useCanvas } from '../charts/useCanvas';
import { layout, paintTimeline, timelineHeight, timelineInk } from './paintTimeline';

export interface PlayedTimeline {
  readonly document: Timeline;
  readonly strip: Timeline;
}

/** The version of a timeline that a run played, and the run laid out in its own slots; null while it loads or when it is gone. */
export function usePlayedTimeline(subject: TimelineSubject['timeline'] | null): PlayedTimeline | null {
  const [document, setDocument] = useState<Timeline | null>(null);
  const id = subject?.id;
  const version = subject?.version;
  useEffect(() => {
    let current = true;
    if (id !== undefined && version !== undefined)
      callApi('GET /api/timelines/{id}/versions/{number}', { ids: { id, number: version } }).then(
        (found) => {
          if (current) setDocument(found);
        },
        () => undefined,
      );
    return () => {
      current = false;
    };
  }, [id, version]);
  return useMemo(
    () => (document && subject ? { document, strip: courseStrip(document, subject.course) } : null),
    [document, subject],
  );
}

const nothing = new Set<string>();
const noMarks = { in: null, out: null };

/** The tracks of a run under its ribbon. */
export function CourseStrip({
  strip,
  range,
  timecodeAt,
}: {
  strip: Timeline;
  range: SlotRange;
  timecodeAt: (slot: number) => string;
}) {
  const height = timelineHeight(strip.tracks.length) - layout.ruler;
  const paint = useCallback(
    (pen: CanvasRenderingContext2D, width: number) => {
      paintTimeline(
        pen,
        { timeline: strip, range, selected: nothing, marks: noMarks, timecodeAt },
        width,
        timelineInk(pen),
        true,
      );
    },
    [strip, range, timecodeAt],
  );
  const { ref } = useCanvas(height, paint);
  return (
    <div className="border-t">
      <canvas
        ref={ref}
        role="img"
        aria-label="The timeline that was played"
        className="block w-full"
        style={{ height }}
      />
    </div>
  );
}

/** What a slot showed, and which part its drop is laid at. */
export function SlotParts({
  played,
  subject,
  parts,
  slot,
  dropped,
}: {
  played: PlayedTimeline;
  subject: TimelineSubject['timeline'];
  parts: readonly PartCharge[];
  slot: number;
  dropped: boolean;
}) {
  const at = courseSlot(subject.course, slot);
  const { layers } = courseContents(played.document, subject.course)(at);
  const part = dropped ? partOfSlot(played.document, parts, at) : null;
  return (
    <p className="text-muted">
      {layers.length === 0
        ? 'a gap'
        : [...layers]
            .reverse()
            .map(({ item, frame, media }) => `${item.name}${media === null ? '' : ` frame ${frame}`}`)
            .join(', ')}
      {part && (
        <>
          ; without <strong className="font-semibold text-ink">{part.label}</strong> {count(part.removes)} of{' '}
          {count(part.of)} drops would not have been
        </>
      )}
    </p>
  );
}

const kindWords = { track: 'Track', item: 'Item', effect: 'Effect' } as const;
const mostRows = 12;

/** Drops by track, item and effect. */
export function PartTable({
  subject: { timeline, startTimecode },
  parts,
}: {
  subject: TimelineSubject;
  parts: readonly PartCharge[];
}) {
  const [all, setAll] = useState(false);
  const timecodeAt = useMemo(
    () => clipTimecode(startTimecode, timeline.rate),
    [startTimecode, timeline.rate],
  );
  if (parts.length === 0)
    return (
      <p className="text-sm text-muted">
        No single track, item or effect would have removed a drop by being away; they add up.
      </p>
    );
  return (
    <section aria-label="Drops by part">
      <h2>Which part of the timeline</h2>
      <table
        aria-label="Drops by part"
        className="mt-2 w-full max-w-3xl border-collapse border bg-surface text-sm"
      >
        <thead>
          <tr className="border-b text-left text-xs text-muted">
            <th scope="col" className="px-3 py-1.5 font-normal">
              Kind
            </th>
            <th scope="col" className="px-3 py-1.5 font-normal">
              Part
            </th>
            <th scope="col" className="px-3 py-1.5 font-normal">
              From
            </th>
            <th scope="col" className="px-3 py-1.5 text-right font-normal">
              Drops less without it
            </th>
          </tr>
        </thead>
        <tbody>
          {parts.slice(0, all ? undefined : mostRows).map((part) => (
            <tr
              key={`${part.kind}-${part.trackId}-${part.itemId}-${part.effectId}`}
              className="border-b last:border-b-0"
            >
              <td className="px-3 py-1.5 text-muted">{kindWords[part.kind]}</td>
              <td className="px-3 py-1.5">{part.label}</td>
              <td className="figure px-3 py-1.5">{timecodeAt(part.at)}</td>
              <td className="figure px-3 py-1.5 text-right">
                {count(part.removes)} of {count(part.of)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {parts.length > mostRows && !all && (
        <button type="button" className="mt-1 text-sm underline" onClick={() => setAll(true)}>
          Show all {parts.length}
        </button>
      )}
      <p className="mt-2 max-w-3xl text-xs text-muted">
        The run was played again through the simulator without each part: without its share of reading and
        decoding as measured per decoder, and without what it adds to processing as measured with and without
        it after the run. Parts overlap: an effect&rsquo;s drops are its item&rsquo;s too.
      </p>
      <Link
        prefetch={false}
        href={`/timelines/${timeline.id}`}
        className="text-sm underline decoration-edge underline-offset-4"
      >
        Change the timeline
      </Link>
    </section>
  );
}
