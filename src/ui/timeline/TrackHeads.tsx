'use client';
import { clsx } from 'clsx';
import { Eye, EyeOff, X } from 'lucide-react';
import { changeTrack, moveTrack, removeTrack } from '@/core/timeline/edits';
import type { Timeline } from '@/core/timeline/model';
import { Sortable, useSorted } from '../parts/Sortable';
import { layout, trackTop } from './paintTimeline';
import type { useTimeline } from './useTimeline';

/** Beside each track: which one receives what is inserted, whether it is on, and its order. */
export function TrackHeads({
  timeline: { tracks },
  active,
  onActive,
  edit,
}: {
  timeline: Timeline;
  active: number;
  onActive: (index: number) => void;
  edit: ReturnType<typeof useTimeline>['edit'];
}) {
  // The topmost layer is the last track.
  const ids = tracks.map(({ id }) => id).toReversed();
  const nameOf = (of: string) => tracks.find(({ id }) => id === of)?.name ?? of;
  return (
    <div className="relative border-y border-l bg-surface text-sm">
      <Sortable
        ids={ids}
        nameOf={nameOf}
        onMove={(id, from, to) =>
          edit(
            (document) => moveTrack(document, id, from - to),
            `Move ${nameOf(id)} ${to < from ? 'up' : 'down'}`,
          )
        }
      >
        {tracks.map((track, index) => (
          <TrackHead
            key={track.id}
            track={track}
            top={trackTop(index, tracks.length)}
            isActive={active === index}
            isOnly={tracks.length < 2}
            onActive={() => onActive(index)}
            edit={edit}
          />
        ))}
      </Sortable>
    </div>
  );
}

function TrackHead({
  track,
  top,
  isActive,
  isOnly,
  onActive,
  edit,
}: {
  track: Timeline['tracks'][number];
  top: number;
  isActive: boolean;
  isOnly: boolean;
  onActive: () => void;
  edit: ReturnType<typeof useTimeline>['edit'];
}) {
  const { ref, style, grip } = useSorted(track.id, track.name);
  const small =
    'flex size-6 shrink-0 items-center justify-center text-muted hover:text-ink disabled:opacity-30';
  return (
    <div
      ref={ref}
      className={clsx(
        'absolute inset-x-0 flex items-center border-l-4 pr-0.5',
        isActive ? 'border-signal bg-raised' : 'border-transparent bg-surface',
      )}
      style={{ ...style, top, height: layout.track }}
    >
      {grip}
      <button
        type="button"
        aria-pressed={isActive}
        aria-label={`${track.name} receives what is inserted`}
        title={track.name}
        className={clsx('h-6 min-w-0 flex-1 truncate text-left', !track.on && 'text-muted line-through')}
        onClick={onActive}
      >
        {track.name}
      </button>
      <button
        type="button"
        aria-pressed={track.on}
        aria-label={`${track.name} on`}
        title={track.on ? 'Played and seen. Click to switch off' : 'Off. Click to switch on'}
        className={small}
        onClick={() =>
          edit(
            (document) => changeTrack(document, track.id, { on: !track.on }),
            `${track.on ? 'Switch off' : 'Switch on'} ${track.name}`,
          )
        }
      >
        {track.on ? <Eye aria-hidden className="size-4" /> : <EyeOff aria-hidden className="size-4" />}
      </button>
      <button
        type="button"
        aria-label={`Remove ${track.name}`}
        disabled={isOnly}
        className={small}
        onClick={() => edit((document) => removeTrack(document, track.id), `Remove ${track.name}`)}
      >
        <X aria-hidden className="size-4" />
      </button>
    </div>
  );
}
