import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { bundleVersion } from '@/core/formats/bundleTypes';
import { trialKinds } from '@/core/kinds/kinds';
import { projectRoot } from './bundle';
import { schemasOf, type Json } from './typeSchemas';

export const bundleSchemaFile = join(projectRoot, 'docs/result-bundle.schema.json');

interface ObjectSchema extends Json {
  readonly properties: Readonly<Record<string, Json>>;
}

/** Result bundles as a JSON schema (2020-12), of the types that the core has for them. */
export function bundleSchema(): Json {
  const { BundleParts, BundleHead, ...types } = schemasOf(
    'src/core/formats/bundleTypes.ts',
    ['BundleParts'],
    '#/$defs/',
  );
  const { trials } = (BundleParts as ObjectSchema).properties;
  const byKind = types[(trials?.$ref as string).replace('#/$defs/', '')] as ObjectSchema;
  const { properties, required } = BundleHead as ObjectSchema;
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: `Navvy result bundle, version ${bundleVersion}`,
    type: 'object',
    required,
    properties: { ...properties, trials: { type: 'array', items: { $ref: '#/$defs/trial' } } },
    $defs: {
      ...types,
      trial: {
        description: 'An ended trial of any kind.',
        type: 'object',
        required: ['kind'],
        properties: { kind: { enum: trialKinds } },
        allOf: trialKinds.map((kind) => ({
          if: { type: 'object', properties: { kind: { const: kind } } },
          then: byKind.properties[kind],
        })),
      },
    },
  };
}

export const bundleSchemaText = () => `${JSON.stringify(bundleSchema(), null, 2)}\n`;

export function writeBundleSchema(): void {
  writeFileSync(bundleSchemaFile, bundleSchemaText());
}
