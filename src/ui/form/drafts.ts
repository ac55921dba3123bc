/**
 * What is typed into a form is kept on this computer until it is sent or discarded, so that a page left by mistake loses
 * nothing. Only documents are kept (a volume, a brief, a plan): what a trial runs under is chosen anew each time.
 */
const placeOf = (name: string) => `navvy-draft:${name}`;

/** Values of the same shape: what another version kept, and a field of another kind, are left out. */
function sameShape(kept: unknown, shape: unknown): unknown {
  if (Array.isArray(shape)) return Array.isArray(kept) ? kept : shape;
  if (typeof shape !== 'object' || shape === null) return typeof kept === typeof shape ? kept : shape;
  if (typeof kept !== 'object' || kept === null) return shape;
  return Object.fromEntries(
    Object.entries(shape).map(([name, value]) => [
      name,
      name in kept ? sameShape((kept as Readonly<Record<string, unknown>>)[name], value) : value,
    ]),
  );
}

/** What was typed before and not sent; null where nothing was, or the same as the form begins with. */
export function readDraft<Values extends object>(name: string, defaults: Values): Values | null {
  try {
    const text = localStorage.getItem(placeOf(name));
    if (text === null) return null;
    const values = sameShape(JSON.parse(text), defaults) as Values;
    return JSON.stringify(values) === JSON.stringify(defaults) ? null : values;
  } catch {
    return null; // no room to keep anything, or what is there is none of ours
  }
}

export function keepDraft(name: string, values: object): void {
  try {
    localStorage.setItem(placeOf(name), JSON.stringify(values));
  } catch {
    // The form works without.
  }
}

export function forgetDraft(name: string): void {
  try {
    localStorage.removeItem(placeOf(name));
  } catch {
    // Nothing was kept.
  }
}
