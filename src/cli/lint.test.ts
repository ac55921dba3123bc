import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { projectRoot } from './bundle';

const folder = mkdtempSync(join(tmpdir(), 'navvy-lint-'));
afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

/** The rules that the linter by types finds broken in these files. */
function rulesBroken(files: Readonly<Record<string, string>>): string[] {
  const options = { strict: true, noUncheckedIndexedAccess: true, target: 'es2022', module: 'preserve' };
  writeFileSync(join(folder, 'tsconfig.json'), JSON.stringify({ compilerOptions: options }));
  for (const [name, text] of Object.entries(files)) writeFileSync(join(folder, name), text);
  const { stdout } = spawnSync(
    process.execPath,
    [
      join(projectRoot, 'node_modules/oxlint/bin/oxlint'),
      '--config',
      join(projectRoot, '.oxlintrc.json'),
      '--format',
      'json',
      folder,
    ],
    { encoding: 'utf8' },
  );
  const { diagnostics } = JSON.parse(stdout) as { diagnostics: { code: string }[] };
  for (const name of Object.keys(files)) rmSync(join(folder, name));
  return [...new Set(diagnostics.map(({ code }) => code))].toSorted();
}

test('rules that need types and cycles of modules are looked for; good lines pass', () => {
  expect(
    rulesBroken({
      'promise.ts': 'declare const work: () => Promise<void>;\nwork();\n',
      'unsafe.ts': 'export const used: string = JSON.parse("1");\n',
      'written.ts': 'export const used = (given: { a: 1 }) => `${given}`;\n',
      'one.ts': "import { two } from './two';\nexport const one = (): number => two();\n",
      'two.ts': "import { one } from './one';\nexport const two = (): number => one();\n",
    }),
  ).toEqual([
    'import(no-cycle)',
    'typescript(no-base-to-string)',
    'typescript(no-floating-promises)',
    'typescript(no-unsafe-assignment)',
    'typescript(restrict-template-expressions)',
  ]);
  expect(
    rulesBroken({
      'good.ts': "import type { Two } from './typed';\nexport const used = (given: Two) => `${given.of}`;\n",
      'typed.ts':
        "import { used } from './good';\nexport interface Two { of: number }\nexport const all = [used];\n",
    }),
  ).toEqual([]);
});

test('a function of more than 80 lines is refused, in a test it is not', () => {
  const long = `export function long(): number {\n  let sum = 0;\n${'  sum += 1;\n'.repeat(80)}  return sum;\n}\n`;
  expect(rulesBroken({ 'long.ts': long })).toEqual(['eslint(max-lines-per-function)']);
  expect(rulesBroken({ 'long.test.ts': long })).toEqual([]);
  expect(rulesBroken({ 'short.ts': long.replace('  sum += 1;\n'.repeat(10), '') })).toEqual([]);
});
