'use client';
import { clockTime, count, quantity } from '@/core/format';
import { clsx } from 'clsx';
import { Trash2 } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useMemo, useState, type ComponentProps } from 'react';
import { findItem, lengthOf, type Item, type Timeline } from '@/core/timeline/model';
import { clipTimecode } from '@/core/time/clipTimecode';
import { rateLabel } from '@/core/time/rational';
import type { EditorPage } from '@/server/timelines/editor';
import { callApi } from '../api';
import { clampRange, revealSlot, zoomRange, type SlotRange } from '../charts/slotAxis';
import { Button } from '../parts/Button';
import { ConfirmButton } from '../parts/Confirm';
import { useCommands } from '../keys/commands';
import { ClipList } from './ClipList';
import { EditorTools } from './EditorTools';
import { Interchange } from './Interchange';
import { ItemPanel, type LookList } from './ItemPanel';
import { PlayForm } from './PlayForm';
import { Prerenders } from './Prerenders';
import { SaveGesture } from './SaveGesture';
import { SlotWork } from './SlotWork';
import { TimelineCanvas } from './TimelineCanvas';
import { useEditing } from './useEditing';
import { usePlayhead } from './usePlayhead';
import { useTimeline, type SaveState } from './useTimeline';
import { useViewer, type ViewerLook } from './useViewer';
import { Viewer } from './Viewer';
import { TrackHeads } from './TrackHeads';

/** A timeline under work: the document, what is seen of it, what is chosen, where the playhead stands. */
function useEditor({ row, sound }: Pick<EditorPage, 'row' | 'sound'>) {
  const history = useTimeline(row.id, row.document, row.revision);
  const { timeline, edit } = history;
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const [track, setTrack] = useState(0);
  const [snapping, setSnapping] = useState(true);
  const [look, setLook] = useState<ViewerLook>({ scale: 'half', read: 'originals', cold: false });
  const viewer = useViewer(timeline, look);
  const playhead = usePlayhead(timeline, viewer);
  const { slot, total, moveTo } = playhead;
  const room = Math.max(240, Math.ceil(total * 1.15));
  const [range, setRange] = useRange(room, slot, total);
  const timecodeAt = useMemo(
    () => clipTimecode(timeline.startTimecode, timeline.rate),
    [timeline.startTimecode, timeline.rate],
  );
  const adding = useEditing({
    timeline,
    edit,
    selected,
    onSelect: setSelected,
    slot,
    moveTo,
    track,
    onTrack: setTrack,
  });
  const soundCosts = useSoundCosts(timeline, sound);
  const gesture = useGesture(playhead);
  return {
    history,
    selected,
    setSelected,
    track,
    setTrack,
    snapping,
    setSnapping,
    look,
    setLook,
    viewer,
    playhead,
    axis: { range, onRange: setRange, room },
    zoom: (factor: number | null) =>
      setRange(factor === null ? { from: 0, to: room } : zoomRange(range, factor, slot, room)),
    timecodeAt,
    adding,
    soundCosts,
    gesture,
  };
}

/** Builds a timeline and looks at it; what is seen is worked as trials work it. */
export function EditorView({ row, clips, volumes, sound, devices, looks: initialLooks }: EditorPage) {
  const { history, viewer, playhead, timecodeAt, gesture, ...editor } = useEditor({ row, sound });
  const { selected, setSelected, track, setTrack, snapping, setSnapping, look, setLook } = editor;
  const { timeline, edit, adopt, save, storeNow } = history;
  const { slot, total, moveTo } = playhead;
  const { addClips, addAtPlayhead, addAngles, addTitle } = editor.adding;
  return (
    <div className="flex flex-col gap-3">
      <Head
        id={row.id}
        timeline={timeline}
        total={total}
        save={save}
        marks={playhead.marks}
        onRetry={() => void storeNow()}
        rename={(name) => edit((document) => ({ ...document, name }), 'Rename the timeline', 'name')}
      />
      <EditorTools
        history={history}
        edit={edit}
        addTitle={addTitle}
        snapping={snapping}
        onSnapping={setSnapping}
        chosen={selected.size}
        zoom={editor.zoom}
      />
      <Tracks
        timeline={timeline}
        {...editor.axis}
        selected={selected}
        marks={playhead.marks}
        timecodeAt={timecodeAt}
        playhead={slot}
        snapping={snapping}
        onSelect={setSelected}
        onPlayhead={moveTo}
        track={track}
        onTrack={setTrack}
        edit={edit}
        onDropClip={(clip, at, where) => addClips([clip], at, where)}
      />
      <div className="grid gap-4 lg:grid-cols-[minmax(0,1.25fr)_minmax(0,1fr)_minmax(0,17rem)]">
        <Viewer
          timeline={timeline}
          viewer={viewer}
          playhead={playhead}
          timecodeAt={timecodeAt}
          look={look}
          onLook={(changed) => setLook((before) => ({ ...before, ...changed }))}
          onRecord={gesture.record}
        />
        <ItemOrSlot
          timeline={timeline}
          selected={selected}
          onSelect={(id) => setSelected(new Set([id]))}
          slot={slot}
          looks={initialLooks}
          edit={edit}
          timecodeAt={timecodeAt}
        />
        <ClipList first={clips} onAdd={addAtPlayhead} onAngles={addAngles} />
      </div>
      {gesture.recorded && <SaveGesture gesture={gesture.recorded} onDone={gesture.end} />}
      <PlayForm
        timelineId={row.id}
        marks={playhead.marks}
        playhead={slot}
        total={total}
        beforeStart={storeNow}
        volumes={volumes}
        devices={devices}
        sound={editor.soundCosts}
      />
      <Prerenders timelineId={row.id} isSaved={save.kind === 'saved'} timecodeAt={timecodeAt} />
      <More id={row.id} timeline={timeline} storeNow={storeNow} adopt={adopt} edit={edit} />
    </div>
  );
}

/** The tracks with their heads. */
function Tracks({ track, ...canvas }: ComponentProps<typeof TimelineCanvas> & { readonly track: number }) {
  return (
    <div className="grid grid-cols-[7.5rem_1fr]">
      <TrackHeads timeline={canvas.timeline} active={track} onActive={canvas.onTrack} edit={canvas.edit} />
      <TimelineCanvas {...canvas} />
    </div>
  );
}

type Recorded = ReturnType<ReturnType<typeof usePlayhead>['endRecording']>;

/** A movement of the playhead that is recorded, until it is saved or let go. */
function useGesture({ isRecording, record, endRecording }: ReturnType<typeof usePlayhead>) {
  const [recorded, setRecorded] = useState<Recorded>(null);
  return {
    recorded,
    record: () => {
      if (isRecording) setRecorded(endRecording());
      else record();
    },
    end: () => setRecorded(null),
  };
}

/** The item that is chosen, to change it; else what is at work at the playhead. */
function ItemOrSlot({
  selected,
  onSelect,
  looks: initialLooks,
  edit,
  ...at
}: Pick<ComponentProps<typeof ItemPanel>, 'timeline' | 'looks' | 'edit' | 'timecodeAt'> & {
  readonly selected: ReadonlySet<string>;
  readonly onSelect: (id: string) => void;
  readonly slot: number;
}) {
  const [looks, setLooks] = useState<LookList>(initialLooks);
  const item = useOneItem(at.timeline, selected);
  if (!item) return <SlotWork {...at} onSelect={onSelect} />;
  const { slot, ...panel } = at;
  return <ItemPanel {...panel} item={item} playhead={slot} looks={looks} onLooks={setLooks} edit={edit} />;
}

/** What is wanted now and then. */
function More({ edit, ...of }: Omit<ComponentProps<typeof Interchange>, 'restore'>) {
  return (
    <details>
      <summary className="w-fit text-sm text-muted hover:text-ink">Versions, missing media, export</summary>
      <div className="mt-3">
        <Interchange
          {...of}
          edit={edit}
          restore={(document, name) => edit(() => document, `Go back to ${name}`)}
        />
      </div>
    </details>
  );
}

/** The item that is chosen by itself; null where none or several are. */
function useOneItem(timeline: Timeline, selected: ReadonlySet<string>): Item | null {
  return useMemo(() => {
    const [id] = selected;
    return id !== undefined && selected.size === 1 ? (findItem(timeline, id)?.item ?? null) : null;
  }, [timeline, selected]);
}

/** What decoding the sound of the used clips takes, ms per second of each; null where it has none or that is not known yet. */
function useSoundCosts({ media }: Timeline, sound: EditorPage['sound']): readonly (number | null)[] {
  return useMemo(() => {
    const known = new Map(sound);
    return Object.values(media).map(({ clipId, frames, rate }) => {
      const [ms, seconds] = [known.get(clipId ?? ''), (frames * rate.den) / rate.num];
      return ms === undefined || seconds === 0 ? null : ms / seconds;
    });
  }, [media, sound]);
}

/** The stretch in sight, which follows the playhead, with its keys. */
function useRange(room: number, slot: number, total: number): [SlotRange, (range: SlotRange) => void] {
  const [range, setRange] = useState<SlotRange>({ from: 0, to: room });
  useEffect(
    () =>
      setRange((current) =>
        revealSlot(clampRange(current, room), Math.min(slot, Math.max(0, total - 1)), room),
      ),
    [slot, total, room],
  );
  const at = useMemo(() => ({ slot: 0, room: 0 }), []);
  useEffect(() => {
    at.slot = slot;
    at.room = room;
  });
  useCommands(
    useMemo(
      () => [
        {
          id: 'zoom-in',
          label: 'Zoom in',
          group: 'View',
          key: '+',
          run: () => setRange((current) => zoomRange(current, 2, at.slot, at.room)),
        },
        {
          id: 'zoom-out',
          label: 'Zoom out',
          group: 'View',
          key: '-',
          run: () => setRange((current) => zoomRange(current, 0.5, at.slot, at.room)),
        },
        {
          id: 'zoom-all',
          label: 'Show the whole timeline',
          group: 'View',
          key: '0',
          run: () => setRange({ from: 0, to: at.room }),
        },
      ],
      [at],
    ),
  );
  return [range, useCallback((next: SlotRange) => setRange(next), [])];
}

type Marks = ReturnType<typeof usePlayhead>['marks'];

function Head({
  id,
  timeline,
  total,
  save,
  marks,
  onRetry,
  rename,
}: {
  id: string;
  timeline: Timeline;
  total: number;
  save: SaveState;
  marks: Marks;
  onRetry: () => void;
  rename: (name: string) => void;
}) {
  const router = useRouter();
  const rate = timeline.rate.num / timeline.rate.den;
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1 text-sm text-muted">
      <h1 className="sr-only">{timeline.name}</h1>
      <Link prefetch={false} href="/timelines" className="underline decoration-edge underline-offset-4">
        Timelines
      </Link>
      <input
        aria-label="Name of the timeline"
        value={timeline.name}
        onChange={(event) => rename(event.target.value)}
        spellCheck={false}
        className="h-8 min-w-64 flex-1 border border-transparent bg-transparent px-1 text-lg font-semibold text-ink hover:border-edge focus:border-edge"
      />
      <span className="figure">
        {timeline.width}x{timeline.height}, {quantity(rateLabel(timeline.rate), '/s')},{' '}
        {clockTime((total * 1000) / rate)}, {count(total)} slots
      </span>
      <SaveNote save={save} onRetry={onRetry} />
      <Elsewhere id={id} marks={marks} />
      <Button
        look="quiet"
        className="h-8 px-2"
        onClick={() => {
          void callApi('POST /api/timelines/{id}/copy', {
            ids: { id },
            body: {
              name: `${timeline.name}, copy`,
            },
          }).then(({ id: copy }) => router.push(`/timelines/${copy}`));
        }}
      >
        Copy
      </Button>
      <ConfirmButton
        label="Remove this timeline"
        title="Remove this timeline?"
        consequence={`${timeline.name} with its ${lengthOf(timeline)} slots is removed from the list. Trials that played it keep what they played.`}
        verb="Remove"
        act={async () => {
          await callApi('DELETE /api/timelines/{id}', { ids: { id } });
          router.push('/timelines');
        }}
      >
        <Trash2 aria-hidden className="size-4" />
      </ConfirmButton>
    </div>
  );
}

/** Whether what is seen is stored. */
function SaveNote({ save, onRetry }: { save: SaveState; onRetry: () => void }) {
  return (
    <span role="status" className={clsx(save.kind === 'refused' && 'text-signal-text')}>
      {save.kind === 'saved' ? (
        'Saved'
      ) : save.kind === 'saving' ? (
        'Saving'
      ) : (
        <>
          Not saved: {save.message}{' '}
          <button type="button" className="underline" onClick={onRetry}>
            Try again
          </button>
        </>
      )}
    </span>
  );
}

/** Where else the timeline, or the stretch between its marks, is worked on. */
function Elsewhere({ id, marks }: { id: string; marks: Marks }) {
  const stretch = `${marks.in === null ? '' : `&from=${marks.in}`}${marks.out === null ? '' : `&to=${marks.out + 1}`}`;
  const places = [
    ['Runs of this timeline', `/timelines/${id}/runs`],
    ['Scrub', `/timelines/tests?timeline=${id}`],
    ['Export', `/trials/tasks?timeline=${id}${stretch}`],
    ['Pre-render', `/trials/tasks?task=pre-render&timeline=${id}${stretch}`],
  ] as const;
  return places.map(([name, href]) => (
    <Link key={name} prefetch={false} href={href} className="underline decoration-edge underline-offset-4">
      {name}
    </Link>
  ));
}
