/** States before and after the present one. Documents share what did not change, so keeping them costs little. */
export interface History<State> {
  readonly past: readonly Step<State>[];
  readonly present: State;
  readonly future: readonly Step<State>[];
}

interface Step<State> {
  readonly state: State;
  /** the edit that led away from it, in words */ readonly what: string;
  readonly merge: string | null;
}

const mostSteps = 500;

export function historyOf<State>(present: State): History<State> {
  return { past: [], present, future: [] };
}

/**
 * Takes an edit in. Edits with the same `merge` key that follow each other undo together, as a drag's do.
 */
export function commit<State>(
  history: History<State>,
  next: State,
  what: string,
  merge: string | null = null,
): History<State> {
  if (next === history.present) return history;
  const last = history.past.at(-1);
  if (merge !== null && last?.merge === merge && history.future.length === 0)
    return { ...history, present: next };
  return {
    past: [...history.past.slice(-(mostSteps - 1)), { state: history.present, what, merge }],
    present: next,
    future: [],
  };
}

export function undo<State>(history: History<State>): History<State> {
  const last = history.past.at(-1);
  if (!last) return history;
  return {
    past: history.past.slice(0, -1),
    present: last.state,
    future: [{ ...last, state: history.present }, ...history.future],
  };
}

export function redo<State>(history: History<State>): History<State> {
  const [next, ...future] = history.future;
  if (!next) return history;
  return {
    past: [...history.past, { ...next, state: history.present, merge: null }],
    present: next.state,
    future,
  };
}
