import { join } from 'node:path';
import ts from 'typescript';
import { buildGenerator, type Definition } from 'typescript-json-schema';
import { projectRoot } from './bundle';

export type Json = Readonly<Record<string, unknown>>;
export type Schemas = Readonly<Record<string, Json>>;

/**
 * Types of a file as JSON schemas, by name; what they stand on as well.
 * @param file with the types, @param types by name, @param place where references find the schemas, as `#/$defs/`
 */
export function schemasOf(file: string, types: readonly string[], place: string): Schemas {
  const { options } = ts.parseJsonConfigFileContent(
    ts.readConfigFile(join(projectRoot, 'tsconfig.json'), (path) => ts.sys.readFile(path)).config,
    ts.sys,
    projectRoot,
  );
  const program = ts.createProgram([join(projectRoot, file)], options);
  const generator = buildGenerator(program, {
    required: true,
    ignoreErrors: true,
    strictNullChecks: true,
  });
  if (!generator) throw new Error(`The types of ${file} could not be read.`);
  const schemas: Record<string, Definition> = {};
  for (const name of types) {
    const { definitions = {}, $schema: _schema, ...schema } = generator.getSchemaForSymbol(name);
    Object.assign(schemas, definitions, { [name]: schema });
  }
  return asSent(schemas as Schemas, place);
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
function asSent(schemas: Schemas, place: string): Schemas {
  const names = namesOf(schemas);
  const sent = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(sent);
    if (typeof value !== 'object' || value === null) return value;
    return Object.fromEntries(
      Object.entries(value).map(([key, inner]) => {
        if (key === '$ref' && typeof inner === 'string') {
          const name = decodeURIComponent(inner.replace('#/definitions/', ''));
          return [key, `${place}${names.get(name)}`];
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
