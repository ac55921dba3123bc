/** The set with this one added, or without it where it was in. */
export function toggled<Value>(set: ReadonlySet<Value>, value: Value): ReadonlySet<Value> {
  const next = new Set(set);
  if (!next.delete(value)) next.add(value);
  return next;
}
