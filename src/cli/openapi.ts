import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { metrics } from '@/core/kinds/kinds';
import { listInput } from '@/server/trials/trialList';
import { projectRoot } from './bundle';
import { schemasOf, type Json } from './typeSchemas';

export const openApiFile = join(projectRoot, 'docs/openapi.json');
/** Answers and refusals as the contract names them. */
const answers = ['TrialsAnswer', 'TrialAnswer', 'Refused'] as const;

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
  const schemas = schemasOf('src/server/contract.ts', answers, '#/components/schemas/');
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
