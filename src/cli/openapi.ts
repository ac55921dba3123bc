import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';
import { buildGenerator, type Definition } from 'typescript-json-schema';
import { metrics } from '@/core/kinds/kinds';
import { listInput } from '@/server/trialList';
import { projectRoot } from './bundle';

const contract = join(projectRoot, 'src/server/contract.ts');
export const openApiFile = join(projectRoot, 'docs/openapi.json');
/** Answers and refusals as the contract names them. */
const answers = ['TrialsAnswer', 'TrialAnswer', 'Refused'] as const;

type Json = Readonly<Record<string, unknown>>;
type Schemas = Readonly<Record<string, Json>>;

/** Types of the contract as JSON schemas, by name; what they stand on as well. */
function schemasOf(): Schemas {
  const { options } = ts.parseJsonConfigFileContent(
    ts.readConfigFile(join(projectRoot, 'tsconfig.json'), (path) => ts.sys.readFile(path)).config,
    ts.sys,
    projectRoot,
  );
  const program = ts.createProgram([contract], options);
  const generator = buildGenerator(program, {
    required: true,
    ignoreErrors: true,
    strictNullChecks: true,
  });
  if (!generator) throw new Error('The contract’s types could not be read.');
  const schemas: Record<string, Definition> = {};
  for (const name of answers) {
    const { definitions = {}, $schema: _schema, ...schema } = generator.getSchemaForSymbol(name);
    Object.assign(schemas, definitions, { [name]: schema });
  }
  return asSent(schemas as Schemas);
}

/** Longest name that says something; a type without one is called after all its fields. */
const mostCharacters = 60;

/** Names that references may have, each once. A type without a name is called after the field that it stands in. */
function namesOf(schemas: Schemas): ReadonlyMap<string, string> {
  const fields = new Map<string, string>();
  const look = (value: unknown, field: string): void => {
    if (typeof value !== 'object' || value === null) return;
    for (const [key, inner] of Object.entries(value)) {
      if (key === '$ref' && typeof inner === 'string') {
        const name = decodeURIComponent(inner.replace('#/definitions/', ''));
        if (!fields.has(name)) fields.set(name, field);
      } else if (key === 'properties')
        for (const [name, property] of Object.entries(inner as object)) look(property, name);
      else look(inner, field);
    }
  };
  look(schemas, '');
  const taken = new Set<string>();
  return new Map(
    Object.keys(schemas).map((name) => {
      const plain = name.replace(/[^\w.]+/g, '-').replace(/^[-_]+|-+$/g, '');
      const base =
        name.startsWith('__type') || plain.length > mostCharacters
          ? `of-${fields.get(name) || 'kind'}`
          : plain;
      let free = base;
      for (let number = 2; taken.has(free); number++) free = `${base}-${number}`;
      taken.add(free);
      return [name, free];
    }),
  );
}

/** Schemas of what is sent: JSON has no times and no arrays of floats, and the newer description writes tuples otherwise. */
function asSent(schemas: Schemas): Schemas {
  const names = namesOf(schemas);
  const sent = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(sent);
    if (typeof value !== 'object' || value === null) return value;
    return Object.fromEntries(
      Object.entries(value).map(([key, inner]) => {
        if (key === '$ref' && typeof inner === 'string') {
          const name = decodeURIComponent(inner.replace('#/definitions/', ''));
          return [key, `#/components/schemas/${names.get(name)}`];
        }
        return [key === 'items' && Array.isArray(inner) ? 'prefixItems' : key, sent(inner)];
      }),
    );
  };
  const written = Object.fromEntries(
    Object.entries(schemas).map(([name, schema]) => [names.get(name) ?? name, sent(schema) as Json]),
  );
  return {
    ...written,
    ...('Float32Array' in written && {
      Float32Array: { type: 'object', additionalProperties: { type: 'number' } },
    }),
  };
}

/** What narrows a list, as its check describes it. */
function parametersOf(): Json[] {
  const { fields } = listInput.describe();
  return Object.entries(fields).map(([name, field]) => {
    const {
      type,
      meta,
      tests = [],
      default: usual,
      innerType,
    } = field as typeof field & {
      readonly meta?: { readonly about?: string };
      readonly tests?: readonly { readonly name?: string; readonly params?: Record<string, unknown> }[];
      readonly default?: unknown;
      readonly innerType?: { readonly oneOf?: readonly unknown[] };
    };
    const bound = (of: string) => tests.find((test) => test.name === of)?.params?.[of];
    const oneOf = (field as { readonly oneOf?: readonly unknown[] }).oneOf ?? [];
    const schema =
      type === 'array'
        ? { type: 'array', items: { type: 'string', enum: innerType?.oneOf } }
        : type === 'number'
          ? { type: 'integer', minimum: bound('min'), maximum: bound('max'), default: usual }
          : type === 'date'
            ? { type: 'string', format: 'date-time' }
            : { type: 'string', ...(oneOf.length > 0 ? { enum: oneOf } : { maxLength: bound('max') }) };
    return {
      name,
      in: 'query',
      description: meta?.about,
      // Several stand in one word, set apart by commas.
      ...(type === 'array' ? { style: 'form', explode: false } : {}),
      schema,
    };
  });
}

const refers = (name: (typeof answers)[number]) => ({
  'application/json': { schema: { $ref: `#/components/schemas/${name}` } },
});
const refused = (description: string) => ({ description, content: refers('Refused') });
const trialId = { name: 'id', in: 'path', required: true, schema: { type: 'string' } };

/** The routes that results are read by, with their bodies (OpenAPI 3.1). */
export function openApi(): Json {
  const schemas = schemasOf();
  const line = schemas.TrialLine as { readonly properties: Record<string, Json> };
  return {
    openapi: '3.1.0',
    info: {
      title: 'Navvy: results of trials',
      version: '1',
      description:
        'Results of all kinds without a page: a list that the server narrows, and each result with what was recorded of it. Times are ISO 8601.',
    },
    paths: {
      '/api/trials': {
        get: {
          summary: 'Trials of all kinds, newest first',
          description:
            'With `format=csv` all of them come as CSV (RFC 4180), with the same words to narrow them; `page` and `size` have no part in it.',
          parameters: [
            ...parametersOf(),
            {
              name: 'format',
              in: 'query',
              description: 'As what it comes.',
              schema: { type: 'string', enum: ['json', 'csv'], default: 'json' },
            },
          ],
          responses: {
            200: {
              description: 'A page of trials',
              content: { ...refers('TrialsAnswer'), 'text/csv': { schema: { type: 'string' } } },
            },
            400: refused('A word that means nothing; the message says what may stand there.'),
          },
        },
      },
      '/api/trials/{id}': {
        get: {
          summary: 'A trial with its settings, conditions, result and record',
          parameters: [trialId],
          responses: {
            200: { description: 'The trial and what stands around it', content: refers('TrialAnswer') },
            404: refused('There is no such trial.'),
          },
        },
      },
      '/api/trials/{id}/csv': {
        get: {
          summary: 'What a trial recorded: a line for each slot, request, file or pass',
          parameters: [trialId],
          responses: {
            200: { description: 'CSV (RFC 4180)', content: { 'text/csv': { schema: { type: 'string' } } } },
            404: refused('There is no such trial.'),
          },
        },
      },
    },
    components: {
      schemas: {
        ...schemas,
        TrialLine: {
          ...line,
          properties: {
            ...line.properties,
            values: {
              description: 'Its figures by the id of the metric. What it has none of is absent.',
              type: 'object',
              properties: Object.fromEntries(
                metrics.map(({ id, name, unit, better }) => [
                  id,
                  { type: 'number', description: `${name}, ${unit}; ${better} is better` },
                ]),
              ),
            },
          },
        },
      },
    },
  };
}

export const openApiText = () => `${JSON.stringify(openApi(), null, 2)}\n`;

export function writeOpenApi(): void {
  writeFileSync(openApiFile, openApiText());
}
