'use client';
import { memo, useState } from 'react';
import { playableFiles } from '@/core/asked/library';
import { count, quantity } from '@/core/format';
import { fileName } from '@/core/media/fileName';
import { formatLabel } from '@/core/media/format';
import { rateLabel } from '@/core/time/rational';
import { mediaRefOf } from '@/core/timeline/mediaRef';
import type { MediaRef } from '@/core/timeline/model';
import type { LibraryClip, LibraryPage, LibraryQuery } from '@/server/library/clipList';
import { Button } from '../parts/Button';
import { Checkbox } from '../parts/Checkbox';
import { MiddleName } from '../parts/MiddleName';
import { Simulated } from '../parts/Simulated';
import { Pager } from '../table/Pager';
import { SearchField } from '../table/SearchField';
import { useNarrowed } from '../table/useNarrowed';
import { clipDragType } from './TimelineCanvas';

interface ClipListProps {
  /** Clips of the library that can be played, as many as stand on one page. */
  readonly first: LibraryPage;
  readonly onAdd: (clips: readonly MediaRef[]) => void;
  readonly onAngles: (clips: readonly MediaRef[]) => void;
}

/** Clips of the library: drag one into the timeline, or choose some and put them in at the playhead. */
export const ClipList = memo(function ClipList({ first, onAdd, onAngles }: ClipListProps) {
  const { page, asked, narrow, turnTo } = useNarrowed<'GET /api/clips', LibraryQuery>({
    route: 'GET /api/clips',
    first,
    asked: {},
    fixed: playableFiles,
    linked: false,
    concerns: ({ type }) => type === 'clips',
  });
  // What is chosen stays so while other clips are looked for.
  const [chosen, setChosen] = useState<ReadonlyMap<string, MediaRef>>(new Map());
  const choose = (clip: LibraryClip) => {
    const ref = mediaRefOf(clip);
    if (!ref) return;
    const next = new Map(chosen);
    if (!next.delete(clip.id)) next.set(clip.id, ref);
    setChosen(next);
  };
  const picked = [...chosen.values()];
  return (
    <section aria-label="Clips" className="flex min-h-0 min-w-0 flex-col gap-1.5">
      <div className="flex items-center gap-2">
        <h2 className="text-sm">Clips</h2>
        <SearchField
          label="Filter clips"
          placeholder="Filter"
          value={asked.text ?? ''}
          onChange={(text) => narrow({ text })}
          className="min-w-0 flex-1"
        />
      </div>
      <ul className="max-h-[38vh] min-h-24 overflow-y-auto border bg-surface text-sm">
        {page.rows.map((clip) => (
          <ClipRow
            key={clip.id}
            clip={clip}
            isChosen={chosen.has(clip.id)}
            onChoose={() => choose(clip)}
            onAdd={onAdd}
          />
        ))}
        {page.total === 0 && (
          <li className="px-2 py-3 text-muted">
            {page.known === 0
              ? 'No clips yet. Add a volume with media on the Storage page.'
              : 'No clip matches.'}
          </li>
        )}
      </ul>
      {page.total > page.size && (
        <Pager label="Clips" paging={{ ...page, onPage: turnTo }} shown={page.rows.length} />
      )}
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

/** A clip that can be dragged, or chosen by its box; Enter on the box puts it in. */
function ClipRow({
  clip,
  isChosen,
  onChoose,
  onAdd,
}: {
  clip: LibraryClip;
  isChosen: boolean;
  onChoose: () => void;
  onAdd: ClipListProps['onAdd'];
}) {
  const ref = mediaRefOf(clip);
  return (
    <li
      draggable={ref !== null}
      onDragStart={(event) => {
        event.dataTransfer.setData(clipDragType, JSON.stringify(ref));
        event.dataTransfer.effectAllowed = 'copy';
      }}
      className="cursor-grab border-b last:border-b-0 hover:bg-raised"
    >
      <label className="flex cursor-grab items-start gap-2 px-2 py-1">
        <Checkbox
          className="mt-1"
          label={`Choose ${clip.path} on ${clip.volumeName}`}
          checked={isChosen}
          onChange={onChoose}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && ref) onAdd([ref]);
          }}
        />
        <span className="min-w-0 flex-1">
          <span className="flex min-w-0">
            <MiddleName name={fileName(clip.path)} />
          </span>
          <span className="block truncate text-xs text-muted">
            {clip.format && `${formatLabel(clip.format)}, ${quantity(rateLabel(clip.format.rate), '/s')}, `}
            {count(clip.frames ?? 0)} frames
          </span>
          <span className="block truncate text-xs text-muted">
            {clip.volumeName} {clip.simulated && <Simulated />}
          </span>
        </span>
      </label>
    </li>
  );
}
