'use client';
import { useCallback, useMemo, useState } from 'react';
import { useCommands } from './shell/commands';

const mostSteps = 200;

/** A value with undo and redo, by Ctrl+Z and Ctrl+Y. @param group heading of the keys */
export function useUndo<Value>(initial: Value, group: string) {
  const [{ past, present, future }, setState] = useState<{ past: readonly Value[]; present: Value; future: readonly Value[] }>({ past: [], present: initial, future: [] });
  const set = useCallback((change: (value: Value) => Value) => setState((state) => ({ past: [...state.past, state.present].slice(-mostSteps), present: change(state.present), future: [] })), []);
  /** Puts a value in place without a way back, as when it is loaded. */
  const load = useCallback((value: Value) => setState({ past: [], present: value, future: [] }), []);
  const undo = useCallback(() => setState((state) => {
    const last = state.past.at(-1);
    return last === undefined ? state : { past: state.past.slice(0, -1), present: last, future: [state.present, ...state.future] };
  }), []);
  const redo = useCallback(() => setState((state) => {
    const [next, ...rest] = state.future;
    return next === undefined ? state : { past: [...state.past, state.present], present: next, future: rest };
  }), []);
  useCommands(useMemo(() => [
    { id: 'undo', label: 'Undo', group, key: 'Ctrl+z', run: undo },
    { id: 'redo', label: 'Redo', group, key: 'Ctrl+y', run: redo },
  ], [group, undo, redo]));
  return { value: present, set, load, undo, redo, canUndo: past.length > 0, canRedo: future.length > 0 };
}
