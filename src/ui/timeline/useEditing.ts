'use client';
import { useCallback, useEffect, useMemo, useRef } from 'react';
import { lengthOf } from '@/core/timeline/model';
import { useCommands } from '../keys/commands';
import type { EditorClip } from './ClipList';
import { editCommands, type EditingState } from './editCommands';
import { withAngles, withClips, withTitle } from './insertions';
import type { Edit } from './useTimeline';

const refsOf = (clips: readonly EditorClip[]) => clips.map(({ ref }) => ref);

/** All edits of the editor, by function and by key. */
export function useEditing(parts: EditingState & { readonly edit: Edit }) {
  const newest = useRef<EditingState>(parts);
  useEffect(() => {
    newest.current = parts;
  });
  const { edit } = parts;
  const addClips = useCallback(
    (clips: readonly EditorClip[], trackIndex: number, slot: number, makeRoom = false) => {
      const { timeline, onSelect, moveTo } = newest.current;
      const added = withClips(timeline, refsOf(clips), trackIndex, slot, makeRoom);
      const [first] = clips;
      edit(
        () => added.timeline,
        clips.length === 1 ? `Insert ${first?.ref.name}` : `Insert ${clips.length} clips`,
      );
      onSelect(added.ids);
      moveTo(added.end, lengthOf(added.timeline));
    },
    [edit],
  );
  const addAtPlayhead = useCallback(
    (clips: readonly EditorClip[]) => addClips(clips, newest.current.track, newest.current.slot),
    [addClips],
  );
  const addAngles = useCallback(
    (clips: readonly EditorClip[]) => {
      const { timeline, track, slot, onSelect } = newest.current;
      const added = withAngles(timeline, refsOf(clips), track, slot);
      if (!added) return;
      edit(() => added.timeline, `Insert ${clips.length} angles`);
      onSelect(added.ids);
    },
    [edit],
  );
  const addTitle = useCallback(() => {
    const { timeline, slot, onSelect } = newest.current;
    const added = withTitle(timeline, slot);
    edit(() => added.timeline, 'Insert a title');
    onSelect(added.ids);
  }, [edit]);
  useCommands(useMemo(() => editCommands(() => newest.current, edit, addTitle), [edit, addTitle]));
  return { addClips, addAtPlayhead, addAngles, addTitle };
}
