'use client';
import { Redo2, Undo2 } from 'lucide-react';
import { useEffect, useMemo, useRef, type ReactNode } from 'react';
import { count } from '@/core/format';
import { addTrack } from '@/core/timeline/edits';
import { useCommands } from '../keys/commands';
import { Button } from '../parts/Button';
import { CheckField } from '../parts/Checkbox';
import { newId } from './effects';
import type { Edit, useTimeline } from './useTimeline';

interface EditorToolsProps {
  readonly history: Pick<ReturnType<typeof useTimeline>, 'lastEdit' | 'nextEdit' | 'undo' | 'redo'>;
  readonly edit: Edit;
  readonly addTitle: () => void;
  readonly snapping: boolean;
  readonly onSnapping: (snapping: boolean) => void;
  /** Number of items chosen. */
  readonly chosen: number;
  /** @param factor nearer by; null: all in sight */
  readonly zoom: (factor: number | null) => void;
}

/** The row of tools above a timeline. */
export function EditorTools({
  history,
  edit,
  addTitle,
  snapping,
  onSnapping,
  chosen,
  zoom,
}: EditorToolsProps) {
  const toggle = useRef(() => onSnapping(!snapping));
  useEffect(() => {
    toggle.current = () => onSnapping(!snapping);
  });
  useCommands(
    useMemo(
      () => [
        {
          id: 'snap',
          label: 'Snapping on or off',
          group: 'View',
          key: 'Shift+X',
          run: () => toggle.current(),
        },
      ],
      [],
    ),
  );
  return (
    <div className="flex flex-wrap items-center gap-1">
      <Step name="Undo" of={history.lastEdit} go={history.undo}>
        <Undo2 aria-hidden className="size-4" />
      </Step>
      <Step name="Redo" of={history.nextEdit} go={history.redo}>
        <Redo2 aria-hidden className="size-4" />
      </Step>
      <Button look="quiet" className="h-8" onClick={addTitle}>
        Title
      </Button>
      <Button
        look="quiet"
        className="h-8"
        onClick={() =>
          edit((document) => addTrack(document, newId('v'), `V${document.tracks.length + 1}`), 'Add a track')
        }
      >
        Add a track
      </Button>
      <CheckField className="ml-2" checked={snapping} onChange={onSnapping}>
        Snap
      </CheckField>
      <span className="ml-auto text-xs text-muted">
        {chosen > 0 ? `${count(chosen)} chosen` : 'drag clips in; the keys are listed under ?'}
      </span>
      <Button look="quiet" className="h-8" aria-label="Zoom out" onClick={() => zoom(0.5)}>
        −
      </Button>
      <Button look="quiet" className="h-8" aria-label="Zoom in" onClick={() => zoom(2)}>
        +
      </Button>
      <Button look="quiet" className="h-8" onClick={() => zoom(null)}>
        All
      </Button>
    </div>
  );
}

/** One step through what was edited. */
function Step({
  name,
  of,
  go,
  children,
}: {
  readonly name: string;
  readonly of: string | null;
  readonly go: () => void;
  readonly children: ReactNode;
}) {
  const label = of ? `${name}: ${of}` : name;
  return (
    <Button look="quiet" className="h-8 px-2" aria-label={label} title={label} disabled={!of} onClick={go}>
      {children}
    </Button>
  );
}
