'use client';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Timeline } from '@/core/timeline/model';
import { callApi } from '../api';
import { useUndo } from '../useUndo';

const saveAfterMs = 500;

export type SaveState =
  | { readonly kind: 'saved' }
  | { readonly kind: 'saving' }
  | { readonly kind: 'refused'; readonly message: string };

/** Makes an edit: what it is called in words, and a key under which edits that follow each other undo together. */
export type Edit = (change: (timeline: Timeline) => Timeline, what: string, merge?: string) => void;

/** A timeline under edit: with undo and redo, and saved continuously. */
export function useTimeline(id: string, initial: Timeline, initialRevision: number) {
  const { value: timeline, set, undo, redo, lastEdit, nextEdit } = useUndo(initial, 'Edit');
  const [save, setSave] = useState<SaveState>({ kind: 'saved' });
  const revision = useRef(initialRevision);
  const saved = useRef(initial);
  const newest = useRef(initial);
  const busy = useRef(false);

  const store = useCallback(async () => {
    if (busy.current) return;
    busy.current = true;
    try {
      while (newest.current !== saved.current) {
        const document = newest.current;
        setSave({ kind: 'saving' });
        revision.current = (
          await callApi('PUT /api/timelines/{id}', {
            ids: { id },
            body: {
              revision: revision.current,
              document,
            },
          })
        ).revision;
        saved.current = document;
      }
      setSave({ kind: 'saved' });
    } catch (failure) {
      setSave({ kind: 'refused', message: failure instanceof Error ? failure.message : String(failure) });
    } finally {
      busy.current = false;
    }
  }, [id]);

  useEffect(() => {
    newest.current = timeline;
    if (timeline === saved.current) return;
    const timer = setTimeout(() => void store(), saveAfterMs);
    return () => clearTimeout(timer);
  }, [timeline, store]);
  useEffect(() => {
    const onLeave = (event: BeforeUnloadEvent) => {
      if (newest.current !== saved.current) {
        void store();
        event.preventDefault();
      }
    };
    window.addEventListener('beforeunload', onLeave);
    // Going to another page of Navvy unmounts the editor: what was not saved yet is saved then.
    return () => {
      window.removeEventListener('beforeunload', onLeave);
      if (newest.current !== saved.current) void store();
    };
  }, [store]);

  /** Puts a state in place that the server has saved already. */
  const adopt = useCallback(
    (document: Timeline, nextRevision: number, what: string) => {
      revision.current = nextRevision;
      saved.current = document;
      set(() => document, what);
    },
    [set],
  );
  const edit: Edit = set;
  return { timeline, edit, adopt, save, storeNow: store, undo, redo, lastEdit, nextEdit };
}
