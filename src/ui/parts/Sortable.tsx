'use client';
import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type Announcements,
  type Modifier,
} from '@dnd-kit/core';
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { clsx } from 'clsx';
import { GripVertical } from 'lucide-react';
import { useId, type CSSProperties, type ReactNode } from 'react';

const upAndDown: Modifier = ({ transform }) => ({ ...transform, x: 0 });
/** A press becomes a drag once the pointer has moved so far, in pixels. */
const dragFrom = 4;

interface SortableProps {
  /** Ids from top to bottom. */
  readonly ids: readonly string[];
  /** What a thing is called when its move is told. */
  readonly nameOf: (id: string) => string;
  readonly onMove: (id: string, from: number, to: number) => void;
  readonly children: ReactNode;
}

/** Things one below the other that are put in another order by dragging their grip, or by Space and arrows on it. */
export function Sortable({ ids, nameOf, onMove, children }: SortableProps) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: dragFrom } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const place = (id: string | number | undefined) => ids.indexOf(String(id));
  const told = (id: string | number, over: string | number | undefined) =>
    `${nameOf(String(id))}, place ${place(over ?? id) + 1} of ${ids.length}`;
  const announcements: Announcements = {
    onDragStart: ({ active }) => `Picked up ${told(active.id, undefined)}`,
    onDragOver: ({ active, over }) => told(active.id, over?.id),
    onDragEnd: ({ active, over }) => `Put down ${told(active.id, over?.id)}`,
    onDragCancel: ({ active }) => `Left ${nameOf(String(active.id))} where it was`,
  };
  return (
    <DndContext
      id={useId()}
      sensors={sensors}
      collisionDetection={closestCenter}
      modifiers={[upAndDown]}
      accessibility={{
        announcements,
        screenReaderInstructions: {
          draggable: 'Space picks it up, up and down move it, Space puts it down, Escape leaves it.',
        },
      }}
      onDragEnd={({ active, over }) => {
        const [from, to] = [place(active.id), place(over?.id)];
        if (from >= 0 && to >= 0 && from !== to) onMove(String(active.id), from, to);
      }}
    >
      <SortableContext items={[...ids]} strategy={verticalListSortingStrategy}>
        {children}
      </SortableContext>
    </DndContext>
  );
}

/** One of them: where it is drawn, and the grip that it is dragged by. */
export function useSorted(id: string, name: string) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } =
    useSortable({ id });
  const style: CSSProperties = {
    transform: CSS.Translate.toString(transform),
    transition,
    ...(isDragging ? { zIndex: 1 } : {}),
  };
  const grip = (
    <button
      type="button"
      ref={setActivatorNodeRef}
      {...attributes}
      {...listeners}
      aria-label={`Move ${name}`}
      title="Drag, or Space and the arrow keys"
      data-own-keys
      className={clsx(
        'flex size-6 shrink-0 touch-none items-center justify-center text-muted hover:text-ink',
        isDragging ? 'cursor-grabbing' : 'cursor-grab',
      )}
    >
      <GripVertical aria-hidden className="size-4" />
    </button>
  );
  return { ref: setNodeRef, style, grip, isDragging };
}
