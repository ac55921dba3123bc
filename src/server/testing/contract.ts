import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { Ajv2020, type ValidateFunction } from 'ajv/dist/2020.js';
import formats from 'ajv-formats';

// The package is older than modules, and its types say otherwise.
const addFormats = (formats as unknown as { readonly default: (to: Ajv2020) => unknown }).default;

/** What a body has that the published description does not allow, in words; empty where it is as described. */
export function offContract(body: unknown, schema: 'TrialsAnswer' | 'TrialAnswer' | 'Refused'): string[] {
  const validate = validatorOf(schema);
  // As it is sent: times as text, nothing that is undefined.
  validate(JSON.parse(JSON.stringify(body)));
  return (validate.errors ?? []).map(({ instancePath, message }) => `${instancePath}: ${message}`);
}

let ajv: Ajv2020 | null = null;

function validatorOf(schema: string): ValidateFunction {
  if (!ajv) {
    const text = readFileSync(join(process.cwd(), 'docs/openapi.json'), 'utf8');
    ajv = new Ajv2020({ strict: false, allErrors: false });
    addFormats(ajv);
    ajv.addSchema(JSON.parse(text) as object, 'openapi');
  }
  const found = ajv.getSchema(`openapi#/components/schemas/${schema}`);
  if (!found) throw new Error(`docs/openapi.json has no ${schema}.`);
  return found;
}
