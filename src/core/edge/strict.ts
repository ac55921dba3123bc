import { isRecord } from '../record';
import { quickly, undecided, type Parts } from './quick';
import {
  array as anyArray,
  BooleanSchema,
  lazy,
  mixed,
  NumberSchema,
  object as anyObject,
  setLocale,
  StringSchema,
  tuple,
  ValidationError,
  type AnyObject,
  type InferType,
  type ISchema,
  type ObjectShape,
  type Schema,
} from 'yup';

/**
 * Checks of what comes in from outside, of which nothing is taken for something else: a string is a string and not what a
 * number or a list would read as, a number is a finite number. Built like those of Yup, which would cast.
 */
export { lazy, mixed, ValidationError };
export type { InferType, ISchema, Schema };

const words: Readonly<Record<string, string>> = {
  string: 'text',
  number: 'a number',
  boolean: 'true or false',
  array: 'a list',
  object: 'an object',
};
/** Of the place that a message is about. A message never repeats what was sent, which may be long. */
const placed = (path: string | undefined) => (path ? `“${path}”` : 'What was sent');

/** What a message is told of its place; figures by the name of the test. */
interface Told {
  readonly path: string;
  readonly type: string;
  readonly values?: string;
  readonly min?: number;
  readonly max?: number;
}
const missing = ({ path }: Told) => `${placed(path)} is missing.`;

setLocale({
  mixed: {
    required: missing,
    defined: missing,
    notNull: missing,
    oneOf: ({ path, values }: Told) => `${placed(path)} is one of ${values}.`,
    notType: ({ path, type }: Told) => `${placed(path)} must be ${words[type] ?? 'something else'}.`,
  },
  tuple: { notType: ({ path }: Told) => `${placed(path)} must be a list of the right length.` },
  string: {
    min: ({ path, min }: Told) => `${placed(path)} has at least ${min} characters.`,
    max: ({ path, max }: Told) => `${placed(path)} has at most ${max} characters.`,
  },
  number: {
    min: ({ path, min }: Told) => `${placed(path)} is at least ${min}.`,
    max: ({ path, max }: Told) => `${placed(path)} is at most ${max}.`,
    integer: ({ path }: Told) => `${placed(path)} is a whole number.`,
  },
  array: {
    min: ({ path, min }: Told) => `${placed(path)} has at least ${min} entries.`,
    max: ({ path, max }: Told) => `${placed(path)} has at most ${max} entries.`,
  },
});

/** Longest text where a field does not say otherwise, characters. */
const mostCharacters = 10_000;
/** Longest list where a field does not say otherwise. */
const mostEntries = 20_000;
/** Half of a character, of which no text in UTF-8 can hold one. */
const half = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/;
/** NUL, or a part of a character beyond the first plane: what most texts have none of. */
const rare = /[\0\ud800-\udfff]/;

/** Whether a database can keep a text as it is: it has no NUL and no half of a character. */
export const isKept = (text: string): boolean =>
  !rare.test(text) || (!text.includes('\0') && !half.test(text));

class Text extends StringSchema {
  constructor() {
    super();
    this.spec.coerce = false;
    this.withMutation((schema) =>
      schema.max(mostCharacters).test(
        'kept',
        ({ path }: { path: string }) => `${placed(path)} holds characters that cannot be kept.`,
        (value) => typeof value !== 'string' || isKept(value),
      ),
    );
  }

  override trim(): this {
    return this.transform((value: unknown) => (typeof value === 'string' ? value.trim() : value));
  }
}

class Finite extends NumberSchema {
  constructor() {
    super();
    this.spec.coerce = false;
    this.withMutation((schema) =>
      schema.test(
        'finite',
        ({ path }: { path: string }) => `${placed(path)} must be a finite number.`,
        (value) => typeof value !== 'number' || Number.isFinite(value),
      ),
    );
  }

  override integer(message?: Parameters<NumberSchema['integer']>[0]): this {
    return super.integer(message).test(
      'safe',
      ({ path }: { path: string }) => `${placed(path)} is larger than can be counted.`,
      (value) => typeof value !== 'number' || Math.abs(value) <= Number.MAX_SAFE_INTEGER,
    );
  }
}

class Truth extends BooleanSchema {
  constructor() {
    super();
    this.spec.coerce = false;
  }
}

/** Text without NUL or halves of characters, of at most 10 000 characters where it does not say otherwise. */
export const string = (): StringSchema => new Text();
/** A finite number; one that is an integer can be counted exactly. */
export const number = (): NumberSchema => new Finite();
export const boolean = (): BooleanSchema => new Truth();

/** Without fields that have the name of what every object can do: Yup would take that for a check of theirs. */
function withoutShadows(value: unknown): unknown {
  if (!isRecord(value) || !Object.keys(value).some((name) => name in Object.prototype)) return value;
  return Object.fromEntries(Object.entries(value).filter(([name]) => !(name in Object.prototype)));
}

export const object = ((shape: ObjectShape) =>
  anyObject(shape).transform(withoutShadows)) as typeof anyObject;

/** A list, of at most 20 000 entries where it does not say otherwise. */
export const array = <Entry>(of: ISchema<Entry, AnyObject>) =>
  anyArray<AnyObject, Entry>(of).max(mostEntries);

/** Three figures: one of each colour. */
export function triple(least: number, most: number) {
  const figure = number().min(least).max(most).required();
  return tuple([figure, figure, figure]).required();
}

/** Exactly one word: what tells one of several forms from the others. */
export const word = <Word extends string>(one: Word) =>
  string()
    .oneOf([one] as const)
    .required();

/** One of several forms, told by the word in one of their fields. */
export function byWord<Forms extends Readonly<Record<string, Schema>>>(field: string, forms: Forms) {
  const words = Object.keys(forms);
  const none = object({
    [field]: string().oneOf(words).required(),
  }).required();
  return lazy((value: unknown) => {
    const told = isRecord(value) ? value[field] : undefined;
    const form = typeof told === 'string' && Object.hasOwn(forms, told) ? forms[told] : undefined;
    return (form ?? none) as Forms[keyof Forms];
  }).meta({ parts: { kind: 'forms', field, forms } satisfies Parts });
}

/** An id as Navvy gives them: letters, digits, and what parts them. */
const idForm = /^[A-Za-z0-9][\w.:-]{0,159}$/;
export const isId = (text: string): boolean => idForm.test(text);

/** The id of something that is kept. Whether there is such a thing is found out where it is looked for. */
export const identity = (): StringSchema =>
  string().matches(idForm, ({ path }: { path: string }) => `${placed(path)} is no id.`);

/** Entries of one form by their names. @param most entries */
export function record<Entry>(
  of: Schema<Entry>,
  { most = mostEntries, isName = isId }: { most?: number; isName?: (name: string) => boolean } = {},
) {
  const isFit = (name: string) => name !== '__proto__' && isKept(name) && isName(name);
  const parts: Parts = { kind: 'entries', of, most, isName: isFit };
  return mixed<Record<string, Entry>>(isRecord as (value: unknown) => value is Record<string, Entry>)
    .transform((value: unknown) =>
      isRecord(value)
        ? Object.fromEntries(
            Object.entries(value).map(([name, entry]) => [
              name,
              of.cast(entry, { assert: false, stripUnknown: true }),
            ]),
          )
        : value,
    )
    .test('entries', (value, context) => {
      if (!isRecord(value)) return true;
      const names = Object.keys(value);
      if (names.length > most)
        return context.createError({ message: `${placed(context.path)} has at most ${most} entries.` });
      for (const name of names) {
        if (!isFit(name))
          return context.createError({ message: `${placed(context.path)} has an entry without a name.` });
        const place = { path: [context.path, name].filter(Boolean).join('.') };
        try {
          of.validateSync(value[name], { strict: true, ...place });
        } catch (error) {
          if (!(error instanceof ValidationError)) throw error;
          return context.createError({ path: error.path ?? place.path, message: error.message });
        }
      }
      return true;
    })
    .meta({ parts });
}

/** Deepest nesting of what is sent. */
const mostDepth = 32;

/**
 * What makes a JSON value unfit to be kept, whatever is asked of it: too deep, or a NUL or half a character in a text or name.
 * Null where it is sound. Takes time by the size of the value.
 */
export function unsoundJson(value: unknown, depth = 0): string | null {
  if (typeof value === 'string')
    return isKept(value) ? null : 'What was sent holds characters that cannot be kept.';
  if (typeof value === 'number')
    return Number.isFinite(value) ? null : 'What was sent holds a number that is not finite.';
  if (typeof value !== 'object' || value === null) return null;
  if (depth >= mostDepth) return `What was sent is nested deeper than ${mostDepth} levels.`;
  if (Array.isArray(value)) {
    for (const inner of value) {
      const unsound = unsoundJson(inner, depth + 1);
      if (unsound !== null) return unsound;
    }
    return null;
  }
  for (const name of Object.keys(value)) {
    if (!isKept(name)) return 'What was sent holds a name that cannot be kept.';
    const unsound = unsoundJson((value as Readonly<Record<string, unknown>>)[name], depth + 1);
    if (unsound !== null) return unsound;
  }
  return null;
}

/** The same without what keeps it from being handed over: lists that may not be changed do as well. */
export type Lent<Value> = Value extends readonly (infer Entry)[]
  ? readonly Lent<Entry>[]
  : Value extends object
    ? { readonly [Field in keyof Value]: Lent<Value[Field]> }
    : Value;
/** Names of the fields that have a usual value. */
type Usual<Defaults> = {
  [Field in keyof Defaults]-?: Defaults[Field] extends undefined ? never : Field;
}[keyof Defaults];
/** What may be sent for a schema: fields that have a usual value may be left out. */
export type Sendable<Checked extends ISchema<object>> = SendableBy<
  Lent<InferType<Checked>>,
  Usual<Checked['__default']>
>;
type SendableBy<Whole, Free> = { readonly [Field in Exclude<keyof Whole, Free>]: Whole[Field] } & {
  readonly [Field in Extract<keyof Whole, Free>]?: Whole[Field] | undefined;
};

interface Sync<Value> {
  validateSync(value: unknown, options: { readonly stripUnknown: boolean }): Value;
}

/**
 * What a document is by a schema, with what is usual and without what the schema does not name.
 * @throws ValidationError with the place and what is wrong there
 */
export function readBy<Value>(schema: ISchema<Value>, value: unknown): Value {
  const quick = quickly(schema, value);
  return quick === undecided
    ? (schema as unknown as Sync<Value>).validateSync(value, { stripUnknown: true })
    : (quick as Value);
}
