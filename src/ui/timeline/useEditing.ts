'use client';
import { useCallback, useEffect, useMemo, useRef } from 'react';
import { lengthOf, type MediaRef } from '@/core/timeline/model';
import { useCommands } from '../keys/commands';
import { editCommands, type EditingState } from './editCommands';
import { withAngles, withClips, withTitle } from './insertions';
import type { Edit } from './useTimeline';

/** All edits of the editor, by function and by key. */
export function useEditing(parts: EditingState & { readonly edit: Edit }) {
  const newest = useRef<EditingState>(parts);
  useEffect(() => {
    newest.current = parts;
  });
  const { edit } = parts;
  const addClips = useCallback(
    (clips: readonly MediaRef[], trackIndex: number, slot: number, makeRoom = false) => {
      const { timeline, onSelect, moveTo } = newest.current;
      const added = withClips(timeline, clips, trackIndex, slot, makeRoom);
      const [first] = clips;
      edit(
        () => added.timeline,
        clips.length === 1 ? `Insert ${first?.name}` : `Insert ${clips.length} clips`,
      );
      onSelect(added.ids);
      moveTo(added.end, lengthOf(added.timeline));
    },
    [edit],
  );
  const addAtPlayhead = useCallback(
    (clips: readonly MediaRef[]) => addClips(clips, newest.current.track, newest.current.slot),
    [addClips],
  );
  const addAngles = useCallback(
    (clips: readonly MediaRef[]) => {
      const { timeline, track, slot, onSelect } = newest.current;
      const added = withAngles(timeline, clips, track, slot);
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
