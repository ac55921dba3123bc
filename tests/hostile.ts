/** What a walk over all routes sends: bodies made from the checks themselves, with one thing wrong at a time. */

interface Description {
  readonly type: string;
  readonly fields?: Readonly<Record<string, Description>>;
  readonly innerType?: Description | readonly Description[];
  readonly oneOf?: readonly unknown[];
  readonly default?: unknown;
  readonly optional?: boolean;
  readonly nullable?: boolean;
  readonly tests?: readonly { readonly name?: string; readonly params?: Readonly<Record<string, unknown>> }[];
}

/** Anything that tells how it is built, as the schemas of bodies do. */
export interface Told {
  describe(): unknown;
}

/** Values that stand for what is there: ids by the name of their field. */
export type Known = Readonly<Record<string, unknown>>;

/** A body that a schema takes. */
export function sampleOf(schema: Told, known: Known): unknown {
  return made(schema.describe() as Description, '', known);
}

function made(told: Description, name: string, known: Known): unknown {
  if (name in known) return known[name];
  const bound = (test: string) => told.tests?.find((one) => one.name === test)?.params?.[test];
  if (told.oneOf && told.oneOf.length > 0) return told.oneOf[0];
  switch (told.type) {
    case 'object':
      return Object.fromEntries(
        Object.entries(told.fields ?? {}).flatMap(([field, inner]) => {
          const value = made(inner, field, known);
          return value === undefined ? [] : [[field, value]];
        }),
      );
    case 'array': {
      const inner = told.innerType as Description | undefined;
      return inner ? Array.from({ length: Number(bound('min') ?? 1) }, () => made(inner, name, known)) : [];
    }
    case 'tuple':
      return (told.innerType as readonly Description[]).map((inner) => made(inner, name, known));
    case 'number':
      return Number(bound('min') ?? 1);
    case 'boolean':
      return false;
    case 'string':
      return told.nullable ? null : 'walk';
    default:
      return undefined;
  }
}

/** Values that belong nowhere, or nearly so. */
const hostile: readonly unknown[] = [
  null,
  true,
  -1,
  1.5,
  2 ** 53,
  '',
  'x\0y',
  'x'.repeat(30_000),
  ['a'],
  { toString: 1 },
];

/** Bodies with one field of it changed to each of what belongs nowhere, or left out. */
export function* mutations(body: unknown): Generator {
  yield* hostile;
  for (const path of pathsOf(body, [])) {
    for (const value of hostile) yield changed(body, path, value);
    yield changed(body, path, undefined);
  }
}

function* pathsOf(
  value: unknown,
  path: readonly (string | number)[],
): Generator<readonly (string | number)[]> {
  if (path.length > 0) yield path;
  if (typeof value !== 'object' || value === null) return;
  for (const [key, inner] of Object.entries(value))
    yield* pathsOf(inner, [...path, Array.isArray(value) ? Number(key) : key]);
}

function changed(body: unknown, [key, ...rest]: readonly (string | number)[], value: unknown): unknown {
  if (key === undefined) return value;
  const copy = structuredClone(body) as Record<string | number, unknown>;
  copy[key] = rest.length === 0 ? value : changed(copy[key], rest, value);
  return copy;
}

/** Ids that are none of ours, as they stand in an address. */
export const hostileIds: readonly string[] = [
  'none0000ff',
  '..%2f..%2fetc%2fpasswd',
  '%00',
  'a%00b',
  '%ed%a0%80',
  '%ff',
  '%F0%9F%8E%9E',
  '__proto__',
  'constructor',
  'toString',
  '0',
  '-1',
  '1e9',
  'null',
  '%20',
  "'%20or%201=1--",
  'x'.repeat(4_000),
];
