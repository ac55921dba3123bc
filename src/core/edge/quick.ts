import type { AnyObject, ISchema, TestConfig } from 'yup';
import { isRecord } from '../record';

/**
 * Reads documents by their schema without all that a schema does for its messages: many times as fast, for documents of ten
 * thousand parts. What it cannot tell, and whatever is wrong, it leaves to the schema itself, which then says so in words.
 */

/** What a quick look cannot say: the schema has to be asked. */
export const undecided = Symbol('undecided');
type Read = (value: unknown) => unknown;

/** What a schema that tells nothing of its parts is made of, kept with it as `meta({ parts })`. */
export type Parts =
  | {
      readonly kind: 'forms';
      /** Field with the word that tells which form it is. */
      readonly field: string;
      readonly forms: Readonly<Record<string, ISchema<unknown>>>;
    }
  | {
      readonly kind: 'entries';
      readonly of: ISchema<unknown>;
      readonly most: number;
      readonly isName: (name: string) => boolean;
    };

/** How a schema of Yup is made, as far as it is read here. */
interface Made {
  readonly type: string;
  readonly spec: {
    readonly meta?: { readonly parts?: Parts };
    readonly nullable: boolean;
    readonly optional: boolean;
    readonly default?: unknown;
    readonly types?: readonly ISchema<unknown>[];
  };
  readonly tests: readonly { readonly OPTIONS?: TestConfig }[];
  readonly transforms: readonly unknown[];
  readonly conditions: readonly unknown[];
  readonly fields?: Readonly<Record<string, ISchema<unknown>>>;
  readonly innerType?: ISchema<unknown>;
}

const known = new WeakMap<ISchema<unknown>, Read>();

/** What a value is by a schema, without what the schema does not name; `undecided` where the schema has to be asked. */
export function quickly(schema: ISchema<unknown>, value: unknown): unknown {
  try {
    return readerOf(schema)(value);
  } catch {
    return undecided;
  }
}

function readerOf(schema: ISchema<unknown>): Read {
  let read = known.get(schema);
  if (!read) {
    read = readerFor(schema);
    known.set(schema, read);
  }
  return read;
}

const cannot: Read = () => undecided;

/** What each type of schema takes before its own tests. Transforms of texts only trim; of objects they only leave out. */
function shapeFor({ type, transforms, fields = {}, innerType, spec }: Made): Read {
  switch (type) {
    case 'string': {
      const trims = transforms.length > 1;
      return (value) => (typeof value === 'string' && (!trims || value === value.trim()) ? value : undecided);
    }
    case 'number':
      return (value) => (typeof value === 'number' && !Number.isNaN(value) ? value : undecided);
    case 'boolean':
      return (value) => (typeof value === 'boolean' ? value : undecided);
    case 'object':
      return objectReader(fields);
    case 'array':
      return innerType ? listReader([readerOf(innerType)]) : cannot;
    case 'tuple': {
      const types = (spec.types ?? []).map(readerOf);
      const read = listReader(types);
      return (value) => (Array.isArray(value) && value.length === types.length ? read(value) : undecided);
    }
    default:
      return cannot;
  }
}

function objectReader(fields: Readonly<Record<string, ISchema<unknown>>>): Read {
  const parts = Object.entries(fields).map(([name, field]) => [name, readerOf(field)] as const);
  return (value) => {
    if (!isRecord(value)) return undecided;
    const found: AnyObject = {};
    for (const [name, read] of parts) {
      const inner = read(Object.hasOwn(value, name) ? value[name] : undefined);
      if (inner === undecided) return undecided;
      if (inner !== undefined) found[name] = inner;
    }
    return found;
  };
}

/** @param reads of the entries in their order; the last one of all that follow */
function listReader(reads: readonly Read[]): Read {
  const last = reads.at(-1) ?? cannot;
  return (value) => {
    if (!Array.isArray(value)) return undecided;
    const found = new Array<unknown>(value.length);
    for (let index = 0; index < value.length; index++) {
      const inner = (reads[index] ?? last)(value[index]);
      if (inner === undecided) return undecided;
      found[index] = inner;
    }
    return found;
  };
}

function partsReader(parts: Parts): Read {
  if (parts.kind === 'forms') {
    const { field, forms } = parts;
    const reads = new Map<unknown, Read>(Object.entries(forms).map(([word, form]) => [word, readerOf(form)]));
    return (value) => (isRecord(value) ? (reads.get(value[field]) ?? cannot)(value) : undecided);
  }
  const read = readerOf(parts.of);
  return (value) => {
    if (!isRecord(value)) return undecided;
    const names = Object.keys(value);
    if (names.length > parts.most || !names.every(parts.isName)) return undecided;
    const found: AnyObject = {};
    for (const name of names) {
      const inner = read(value[name]);
      if (inner === undecided) return undecided;
      found[name] = inner;
    }
    return found;
  };
}

type Plain = (this: object, value: unknown, context: object) => unknown;
type Test = (value: unknown) => boolean;

/** Instead of a schema: bounds are figures, not references to other fields. A test that wants more throws. */
const context = { resolve: (bound: unknown) => bound, options: {} };

function testFor({ test, skipAbsent }: TestConfig): Test {
  const plain = test as unknown as Plain;
  return skipAbsent
    ? (value) => value === undefined || value === null || plain.call(context, value, context) === true
    : (value) => plain.call(context, value, context) === true;
}

function readerFor(of: ISchema<unknown>): Read {
  const schema = of as unknown as Made;
  const parts = schema.spec.meta?.parts;
  if (schema.type === 'lazy') return parts ? partsReader(parts) : cannot;
  if (schema.conditions.length > 0) return cannot;
  const { nullable, optional, default: usual } = schema.spec;
  const mayLack = optional && usual === undefined && schema.type !== 'object';
  const isPlain = usual === null || ['string', 'number', 'boolean'].includes(typeof usual);
  const { oneOf } = of.describe() as { readonly oneOf: readonly unknown[] };
  const tests = schema.tests.flatMap(({ OPTIONS }) =>
    OPTIONS && OPTIONS.name !== 'noUnknown' && !(parts && OPTIONS.name === 'entries')
      ? [testFor(OPTIONS)]
      : [],
  );
  const shape = parts ? partsReader(parts) : shapeFor(schema);
  return (sent) => {
    if (sent === undefined && !isPlain) return mayLack ? undefined : undecided;
    const value = sent === undefined ? usual : sent;
    if (value === null) return nullable && oneOf.length === 0 ? null : undecided;
    const found = shape(value);
    if (found === undecided || (oneOf.length > 0 && !oneOf.includes(found))) return undecided;
    return tests.every((test) => test(found)) ? found : undecided;
  };
}
