import type { Json } from './json';

/** What another program has with an object, as the text that is kept; undefined where there is nothing. Own metadata is not its. */
export function keptText(parts: Readonly<Record<string, unknown>>): string | undefined {
  const held = Object.entries(parts).filter(([, value]) => !isNothing(value));
  return held.length === 0 ? undefined : JSON.stringify(Object.fromEntries(held));
}

const isNothing = (value: unknown): boolean =>
  value === undefined ||
  value === null ||
  value === '' ||
  (typeof value === 'object' && Object.keys(value).length === 0);

/** The metadata of others in an object: all but our own. */
export function metadataOfOthers(element: Json): Json | undefined {
  const { metadata } = element;
  if (typeof metadata !== 'object' || metadata === null || Array.isArray(metadata)) return undefined;
  const { navvy: _own, ...others } = metadata as Record<string, unknown>;
  return others;
}

/** What was kept, to be written back; nothing where it is not what was kept. */
export function keptOf(text: string | undefined): Record<string, unknown> {
  if (text === undefined) return {};
  try {
    const kept: unknown = JSON.parse(text);
    return typeof kept === 'object' && kept !== null && !Array.isArray(kept)
      ? (kept as Record<string, unknown>)
      : {};
  } catch {
    return {};
  }
}

/** A kept object by its name; an empty one where there is none. */
export function keptObject(kept: Readonly<Record<string, unknown>>, name: string): Record<string, unknown> {
  const value = kept[name];
  return typeof value === 'object' && value !== null && !Array.isArray(value)
    ? (value as Record<string, unknown>)
    : {};
}
