import { Ajv2020, type ErrorObject, type ValidateFunction } from 'ajv/dist/2020.js';
import schema from '../../../docs/result-bundle.schema.json' with { type: 'json' };

/** ISO 8601 with its distance from UTC (RFC 3339). */
const time = /^[1-9]\d{3}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?(Z|[+-]\d\d:\d\d)$/;

let made: ValidateFunction | null = null;

function validator(): ValidateFunction {
  if (made === null) {
    const ajv = new Ajv2020({ strict: false });
    ajv.addFormat('date-time', (text) => time.test(text) && !Number.isNaN(Date.parse(text)));
    made = ajv.compile(schema);
  }
  return made;
}

/** Where a value is not as the schema has it. */
export interface Misfit {
  /** Names of fields and places in lists, from the whole document inwards. */
  readonly path: readonly string[];
  /** What it must be, as the end of a sentence that begins with its place. */
  readonly must: string;
}

const nouns: Readonly<Record<string, string>> = {
  string: 'text',
  number: 'a number',
  integer: 'a whole number',
  boolean: 'true or false',
  array: 'a list',
  object: 'an object',
  null: 'null',
};
/** Most words of a list that a message names. */
const mostWords = 24;

function mustBe({ keyword, params }: ErrorObject): string {
  switch (keyword) {
    case 'required':
      return `must have “${params.missingProperty as string}”`;
    case 'type':
      return `must be ${[params.type as string | string[]]
        .flat()
        .map((type) => nouns[type] ?? type)
        .join(' or ')}`;
    case 'const':
      return `must be ${JSON.stringify(params.allowedValue)}`;
    case 'enum': {
      const words = params.allowedValues as readonly unknown[];
      return `must be one of ${words.slice(0, mostWords).join(', ')}${words.length > mostWords ? ', …' : ''}`;
    }
    case 'minimum':
      return `must be at least ${params.limit as number}`;
    case 'maximum':
      return `must be at most ${params.limit as number}`;
    case 'minLength':
      return 'must not be empty';
    case 'maxLength':
    case 'maxItems':
      return `must not be longer than ${params.limit as number}`;
    case 'format':
      return 'must be a time such as 2026-01-31T10:00:00Z';
    default:
      return 'is not as the schema has it';
  }
}

const partsOf = (pointer: string) =>
  pointer
    .split('/')
    .slice(1)
    .map((part) => part.replaceAll('~1', '/').replaceAll('~0', '~'));

/** What is first found not to be as `docs/result-bundle.schema.json` has it; null where all is. Takes time by the size. */
export function misfitOf(bundle: unknown): Misfit | null {
  const validate = validator();
  if (validate(bundle)) return null;
  // Of several forms that a value may have, the one that fits furthest tells what is wrong.
  const [furthest] = (validate.errors ?? [])
    .filter(({ keyword }) => keyword !== 'if' && keyword !== 'anyOf')
    .map((error) => ({ path: partsOf(error.instancePath), must: mustBe(error) }))
    .toSorted((a, b) => b.path.length - a.path.length);
  return furthest ?? { path: [], must: 'is not as the schema has it' };
}
