'use client';
import { quantity } from '@/core/format';
import { memo, useMemo, useState } from 'react';
import { formatLabel } from '@/core/media/format';
import { rateLabel } from '@/core/time/rational';
import type { EditorPage } from '@/server/timelines/timelines';
import { Button } from '../parts/Button';
import { MiddleName } from '../parts/MiddleName';
import { Simulated } from '../parts/Simulated';
import { clipDragType } from './TimelineCanvas';
import { Checkbox } from '../parts/Checkbox';
import { toggled } from '@/core/toggled';

export type EditorClip = EditorPage['media'][number];

/** Clips of the library: drag one into the timeline, or choose some and put them in at the playhead. */
export const ClipList = memo(function ClipList({
  clips,
  onAdd,
  onAngles,
}: {
  clips: readonly EditorClip[];
  onAdd: (clips: readonly EditorClip[]) => void;
  onAngles: (clips: readonly EditorClip[]) => void;
}) {
  const [filter, setFilter] = useState('');
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const visible = useMemo(
    () =>
      clips.filter(({ path, volumeName, format }) =>
        `${path} ${volumeName} ${format ? formatLabel(format) : ''}`
          .toLowerCase()
          .includes(filter.toLowerCase()),
      ),
    [clips, filter],
  );
  const picked = clips.filter(({ ref }) => ref.clipId !== null && chosen.has(ref.clipId));
  const toggle = (id: string) => setChosen((before) => toggled(before, id));
  return (
    <section aria-label="Clips" className="flex min-h-0 min-w-0 flex-col gap-1.5">
      <div className="flex items-center gap-2">
        <h2 className="text-sm">Clips</h2>
        <input
          aria-label="Filter clips"
          placeholder="Filter"
          value={filter}
          onChange={(event) => setFilter(event.target.value)}
          className="h-8 min-w-0 flex-1 border border-edge bg-ground px-2 text-sm placeholder:text-muted"
        />
      </div>
      <ul className="max-h-[38vh] min-h-24 overflow-y-auto border bg-surface text-sm">
        {visible.map((clip) => {
          const id = clip.ref.clipId as string;
          return (
            <li
              key={id}
              draggable
              onDragStart={(event) => {
                event.dataTransfer.setData(clipDragType, id);
                event.dataTransfer.effectAllowed = 'copy';
              }}
              className="cursor-grab border-b last:border-b-0 hover:bg-raised"
            >
              <label className="flex cursor-grab items-start gap-2 px-2 py-1">
                <Checkbox
                  className="mt-1"
                  label={`Choose ${clip.path} on ${clip.volumeName}`}
                  checked={chosen.has(id)}
                  onChange={() => toggle(id)}
                  onKeyDown={(event) => {
                    if (event.key === 'Enter') onAdd([clip]);
                  }}
                />
                <span className="min-w-0 flex-1">
                  <span className="flex min-w-0">
                    <MiddleName name={clip.ref.name} />
                  </span>
                  <span className="block truncate text-xs text-muted">
                    {clip.format ? formatLabel(clip.format) : ''}, {quantity(rateLabel(clip.ref.rate), '/s')},{' '}
                    {clip.ref.frames} frames
                  </span>
                  <span className="block truncate text-xs text-muted">
                    {clip.volumeName} {clip.simulated && <Simulated />}
                  </span>
                </span>
              </label>
            </li>
          );
        })}
        {visible.length === 0 && (
          <li className="px-2 py-3 text-muted">
            {clips.length === 0
              ? 'No clips yet. Add a volume with media on the Storage page.'
              : 'No clip matches.'}
          </li>
        )}
      </ul>
      <div className="flex flex-wrap gap-1.5">
        <Button className="h-8 px-2" disabled={picked.length === 0} onClick={() => onAdd(picked)}>
          Insert at the playhead
        </Button>
        <Button className="h-8 px-2" disabled={picked.length < 2} onClick={() => onAngles(picked)}>
          As angles of one item
        </Button>
      </div>
    </section>
  );
});
