import { readFileSync } from 'node:fs';
import { metrics, trialKinds } from '@/core/kinds/kinds';
import { listInput } from '@/server/trials/trialList';
import { bundleSchemaFile, bundleSchemaText } from './bundleSchema';
import { openApiFile, openApiText } from './openapi';

interface Document {
  readonly paths: Record<
    string,
    { get: { parameters: { name: string; description?: string; schema: object }[] } }
  >;
  readonly components: { readonly schemas: Record<string, { properties?: Record<string, object> }> };
}
const kept = readFileSync(openApiFile, 'utf8');
const document = JSON.parse(kept) as Document;

test('the published description is that of the types and checks as they are', () => {
  // Where this fails: ./navvy openapi writes it anew.
  expect(openApiText()).toBe(kept);
  expect(bundleSchemaText()).toBe(readFileSync(bundleSchemaFile, 'utf8'));
}, 120_000);

test('every word that narrows a list is described, with what may stand there', () => {
  const { parameters } = document.paths['/api/trials']!.get;
  expect(parameters.map(({ name }) => name)).toEqual([...Object.keys(listInput.fields), 'format']);
  expect(parameters.every(({ description }) => description)).toBe(true);
  expect(parameters.find(({ name }) => name === 'kind')?.schema).toEqual({
    type: 'array',
    items: { type: 'string', enum: [...trialKinds] },
  });
  expect(parameters.find(({ name }) => name === 'size')?.schema).toEqual({
    type: 'integer',
    minimum: 1,
    maximum: 500,
    default: 50,
  });
});

test('every figure is described with its unit, and every reference leads somewhere', () => {
  const { schemas } = document.components;
  const { properties } = schemas.TrialLine!.properties!.values as {
    properties: Record<string, { description: string }>;
  };
  expect(Object.keys(properties)).toEqual(metrics.map(({ id }) => id));
  expect(properties.read?.description).toBe('Sustained reading, MB/s; higher is better');
  const references = [...kept.matchAll(/"#\/components\/schemas\/([^"]+)"/g)].map(([, name]) => name!);
  expect(references.length).toBeGreaterThan(50);
  expect(references.filter((name) => !(name in schemas))).toEqual([]);
});
