import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { dirname, join, normalize, relative } from 'node:path';
import ts from 'typescript';
import { processes, projectRoot } from './bundle';

const endings = ['.ts', '.tsx', '/index.ts', '/index.tsx'];
const source = join(projectRoot, 'src');
/** The code that is delivered, as paths from the project's root. */
const files = readdirSync(source, { recursive: true, encoding: 'utf8' })
  .filter((name) => /\.tsx?$/.test(name) && !/\.test\.tsx?$|(^|\/)testing\//.test(name))
  .map((name) => `src/${name}`);

/** The file that an import names; null for a package. */
function fileOf(from: string, named: string): string | null {
  if (!/^(@|\.\.?)\//.test(named)) return null;
  const base = named.startsWith('@/') ? `src/${named.slice(2)}` : normalize(join(dirname(from), named));
  return endings.map((ending) => base + ending).find((path) => existsSync(join(projectRoot, path))) ?? null;
}

const textOf = (path: string) => readFileSync(join(projectRoot, path), 'utf8');
/** What each file of the project brings in; they are read once. */
const known = new Map<string, string[]>();
function broughtByFile(path: string): string[] {
  const brought = known.get(path) ?? broughtBy(path, textOf(path));
  known.set(path, brought);
  return brought;
}

/** Files that one brings in when it is run: imports of nothing but types bring none. */
function broughtBy(path: string, text: string): string[] {
  const named: string[] = [];
  const visit = (node: ts.Node): void => {
    const isOfTypes = ts.isImportDeclaration(node)
      ? node.importClause?.phaseModifier === ts.SyntaxKind.TypeKeyword ||
        (node.importClause?.name === undefined &&
          node.importClause?.namedBindings !== undefined &&
          ts.isNamedImports(node.importClause.namedBindings) &&
          node.importClause.namedBindings.elements.every((element) => element.isTypeOnly))
      : ts.isExportDeclaration(node) && node.isTypeOnly;
    if ((ts.isImportDeclaration(node) || ts.isExportDeclaration(node)) && node.moduleSpecifier && !isOfTypes)
      named.push((node.moduleSpecifier as ts.StringLiteral).text);
    ts.forEachChild(node, visit);
  };
  visit(ts.createSourceFile(path, text, ts.ScriptTarget.Latest));
  return named.flatMap((name) => fileOf(path, name) ?? []);
}

/** Folders of which each leads to the next and the last to the first; null without such a ring. */
function ringOf(leadsTo: ReadonlyMap<string, ReadonlySet<string>>): string[] | null {
  const done = new Set<string>();
  const walk = (folder: string, way: readonly string[]): string[] | null => {
    const at = way.indexOf(folder);
    if (at >= 0) return [...way.slice(at), folder];
    if (done.has(folder)) return null;
    for (const next of leadsTo.get(folder) ?? []) {
      const ring = walk(next, [...way, folder]);
      if (ring) return ring;
    }
    done.add(folder);
    return null;
  };
  for (const folder of leadsTo.keys()) {
    const ring = walk(folder, []);
    if (ring) return ring;
  }
  return null;
}

function foldersOf(imports: readonly (readonly [string, readonly string[]])[]): Map<string, Set<string>> {
  const leadsTo = new Map<string, Set<string>>();
  for (const [path, brought] of imports)
    for (const other of brought)
      if (dirname(other) !== dirname(path))
        leadsTo.set(dirname(path), (leadsTo.get(dirname(path)) ?? new Set()).add(dirname(other)));
  return leadsTo;
}

test('a ring of folders is found, over any way', () => {
  const ring = ringOf(
    foldersOf([
      ['a/one.ts', ['b/two.ts']],
      ['b/other.ts', ['c/three.ts', 'd/end.ts']],
      ['c/three.ts', ['a/last.ts']],
    ]),
  );
  expect(ring).toEqual(['a', 'b', 'c', 'a']);
  expect(
    broughtBy('src/cli/x.ts', "import type { A } from './home';\nimport { type B } from './ports';"),
  ).toEqual([]);
  expect(broughtBy('src/cli/x.ts', "import { home } from './home';\nexport * from '@/db/client';")).toEqual([
    'src/cli/home.ts',
    'src/db/client.ts',
  ]);
});

test('no folder imports one that imports it', () => {
  expect(files.length).toBeGreaterThan(500);
  const imports = files.map((path) => [path, broughtByFile(path)] as const);
  expect(ringOf(foldersOf(imports))).toBeNull();
});

test('paths that the documents name lead somewhere', () => {
  const documents = readdirSync(join(projectRoot, 'docs')).filter((name) => name.endsWith('.md'));
  const roots = [
    '',
    'src',
    ...['core', 'engine', 'server', 'ui', 'db', 'cli', 'demo'].map((layer) => `src/${layer}`),
  ];
  const layers = new Set(
    readdirSync(source, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isDirectory() && relative(source, entry.parentPath).split('/').length <= 1)
      .map(({ name }) => name),
  );
  const lost = documents.flatMap((document) =>
    [...readFileSync(join(projectRoot, 'docs', document), 'utf8').matchAll(/`([\w-]+(?:\/[\w.-]+)+)`/g)]
      .map(([, path]) => path as string)
      .filter((path) => path.startsWith('src/') || layers.has(path.split('/')[0] as string))
      .filter(
        (path) =>
          !roots.some((root) =>
            ['', '.ts', '.tsx'].some((ending) => existsSync(join(projectRoot, root, path + ending))),
          ),
      )
      .map((path) => `${document}: ${path}`),
  );
  expect(lost).toEqual([]);
});

/** The way from a file to the first that holds a text, over what each brings in; null without one. */
function wayTo(text: string, from: string): string[] | null {
  const ways: string[][] = [[from]];
  const seen = new Set([from]);
  for (let way = ways.shift(); way !== undefined; way = ways.shift()) {
    const path = way.at(-1) as string;
    if (textOf(path).includes(text)) return way;
    for (const next of broughtByFile(path))
      if (!seen.has(next)) {
        seen.add(next);
        ways.push([...way, next]);
      }
  }
  return null;
}

test.each(Object.entries(processes))(
  'the process %s brings in nothing that is for pages alone',
  (_, entry) => {
    expect(wayTo("import 'server-only'", entry)).toBeNull();
  },
);

test('a way to what is for pages alone is found', () => {
  expect(wayTo("import 'server-only'", 'src/app/timelines/[id]/page.tsx')).toEqual([
    'src/app/timelines/[id]/page.tsx',
    'src/server/platform/page.tsx',
  ]);
});
