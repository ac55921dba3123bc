'use client';
import { useCallback, useMemo, useState } from 'react';
import { commit, historyOf, redo, undo } from '@/core/timeline/history';
import { useCommands } from './keys/commands';

/** A value with undo and redo, by Ctrl+Z and Ctrl+Y. @param group heading of the keys */
export function useUndo<Value>(initial: Value, group: string) {
  const [history, setHistory] = useState(() => historyOf(initial));
  const set = useCallback(
    (change: (value: Value) => Value, what = '', merge: string | null = null) =>
      setHistory((state) => commit(state, change(state.present), what, merge)),
    [],
  );
  /** Puts a value in place without a way back, as when it is loaded. */
  const load = useCallback((value: Value) => setHistory(historyOf(value)), []);
  const [steps, setSteps] = useState(0);
  const back = useCallback(() => {
    setHistory(undo);
    setSteps((count) => count + 1);
  }, []);
  const forth = useCallback(() => {
    setHistory(redo);
    setSteps((count) => count + 1);
  }, []);
  useCommands(
    useMemo(
      () => [
        { id: 'undo', label: 'Undo', group, key: 'Ctrl+z', run: back },
        { id: 'redo', label: 'Redo', group, key: 'Ctrl+y', run: forth },
      ],
      [group, back, forth],
    ),
  );
  const { past, present, future } = history;
  return {
    value: present,
    set,
    load,
    undo: back,
    redo: forth,
    /** How often it went back or forth. */
    steps,
    canUndo: past.length > 0,
    canRedo: future.length > 0,
    lastEdit: past.at(-1)?.what ?? null,
    nextEdit: future[0]?.what ?? null,
  };
}
