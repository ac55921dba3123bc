import { join } from 'node:path';
import { ESLint } from 'eslint';
import tseslint from 'typescript-eslint';
import { projectRoot } from './bundle';

/** The linter is asked about lines that break a layer rule, as if they stood in an existing file. */
const linter = new ESLint({
  cwd: projectRoot,
  overrideConfig: tseslint.configs.disableTypeChecked as ESLint.Options['overrideConfig'],
});

async function rulesBroken(file: string, text: string): Promise<string[]> {
  const [result] = await linter.lintText(text, { filePath: join(projectRoot, file) });
  return [...new Set(result!.messages.map(({ ruleId }) => ruleId ?? 'parse error'))];
}

const uses = (path: string, name = 'value') =>
  `import { ${name} } from '${path}';\nexport const used = ${name};\n`;

test.each([
  ['src/core/stats/random.ts', uses('@/engine/clock', 'monotonicUs'), 'import/no-restricted-paths'],
  ['src/core/stats/random.ts', uses('../../db/client', 'database'), 'import/no-restricted-paths'],
  ['src/core/stats/random.ts', uses('node:fs', 'readFileSync'), '@typescript-eslint/no-restricted-imports'],
  ['src/core/stats/random.ts', uses('react', 'useState'), '@typescript-eslint/no-restricted-imports'],
  ['src/core/stats/random.ts', 'export const used = Math.random();\n', 'no-restricted-properties'],
  ['src/core/stats/random.ts', 'export const used = Date.now();\n', 'no-restricted-properties'],
  ['src/engine/clock.ts', uses('@/db/client', 'database'), 'import/no-restricted-paths'],
  ['src/engine/clock.ts', uses('@/ui/api', 'callApi'), 'import/no-restricted-paths'],
  ['src/db/client.ts', uses('@/ui/api', 'callApi'), 'import/no-restricted-paths'],
  ['src/app/page.tsx', uses('@/engine/clock', 'monotonicUs'), '@typescript-eslint/no-restricted-imports'],
  ['src/core/stats/random.ts', 'export const used = Math.max(...[1]);\n', 'no-restricted-syntax'],
  ['src/core/stats/random.ts', 'export const used = (1).toFixed(1);\n', 'no-restricted-syntax'],
  ['src/engine/clock.ts', 'export const used = `${1} MB/s`;\n', 'no-restricted-syntax'],
  ['src/ui/parts/Empty.tsx', 'export const Used = () => <p>{1} ms</p>;\n', 'no-restricted-syntax'],
  ['src/ui/parts/Empty.tsx', "export const used = '/api/status';\n", 'no-restricted-syntax'],
  ['src/app/page.tsx', 'export const used = `/api/trials/${1}`;\n', 'no-restricted-syntax'],
  ['src/ui/api.ts', uses('@/db/client', 'database'), '@typescript-eslint/no-restricted-imports'],
  ['src/ui/api.ts', uses('@/server/platform/events', 'publish'), '@typescript-eslint/no-restricted-imports'],
  ['src/ui/api.ts', uses('../server/platform/events', 'publish'), '@typescript-eslint/no-restricted-imports'],
  ['src/ui/parts/Empty.tsx', uses('../../db/client', 'database'), '@typescript-eslint/no-restricted-imports'],
  ['src/app/page.tsx', uses('../engine/clock', 'monotonicUs'), '@typescript-eslint/no-restricted-imports'],
  ['src/ui/parts/Empty.tsx', uses('../../app/layout', 'metadata'), 'import/no-restricted-paths'],
  ['src/server/platform/events.ts', uses('../../cli/home', 'home'), 'import/no-restricted-paths'],
  ['src/server/platform/events.ts', uses('@/app/layout', 'metadata'), 'import/no-restricted-paths'],
  ['src/server/platform/events.ts', uses('drizzle-orm', 'sql'), '@typescript-eslint/no-restricted-imports'],
  ['src/server/platform/events.ts', uses('pg', 'Client'), '@typescript-eslint/no-restricted-imports'],
  ['src/demo/clips.ts', uses('../server/platform/events', 'publish'), 'import/no-restricted-paths'],
  ['src/core/stats/random.ts', 'export const used = new Date();\n', 'no-restricted-syntax'],
])(
  '%s may not say what breaks %#',
  async (file, text, rule) => {
    expect(await rulesBroken(file, text)).toContain(rule);
  },
  120_000,
);

test('core may use core, and pages may use types of lower layers', async () => {
  expect(await rulesBroken('src/core/stats/random.ts', uses('../time/rational', 'rational'))).toEqual([]);
  expect(
    await rulesBroken(
      'src/ui/api.ts',
      "import type { TrialStatus } from '@/db/schema';\nexport const used: TrialStatus = 'done';\n",
    ),
  ).toEqual([]);
}, 120_000);
