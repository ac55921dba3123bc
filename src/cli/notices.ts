import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { groupBy } from '@/core/groups';
import { projectRoot } from './bundle';

/** A package that Navvy runs with, as the lock file has it. */
interface LockedPackage {
  readonly version: string;
  readonly license?: string;
  readonly dev?: boolean;
  readonly optional?: boolean;
}

interface Notice {
  readonly name: string;
  readonly version: string;
  readonly license: string;
  /** Its own words, or null where it brings none or is not the same on every machine. */
  readonly text: string | null;
}

/**
 * What the packages ask that are not simply permissive, by name. Everything that `permissive` does not hold must
 * stand here: the test refuses others.
 */
export const remarks: Readonly<Record<string, string>> = {
  'node-av':
    'MIT itself; its prebuilt library holds FFmpeg with x264, x265 and others under the GNU General Public License, version 3 or later. It is installed from the registry and not part of this source. Whoever hands on Navvy together with it does so under that licence.',
  '@img/sharp':
    'Its prebuilt library holds libvips under the GNU Lesser General Public License, version 3 or later, linked at run time. It comes with the web framework.',
  mediabunny:
    'Mozilla Public License 2.0: changes of its own files are to be published. None is changed here.',
  'caniuse-lite': 'Data under Creative Commons Attribution 4.0, used when the interface is built.',
  '@shinyoshiaki/jspack': 'States no licence in its package file; its own text says BSD.',
};

/** Licences that ask for nothing but their notice. */
export const permissive: ReadonlySet<string> = new Set([
  'MIT',
  'ISC',
  'Apache-2.0',
  'BSD-2-Clause',
  'BSD-3-Clause',
  '0BSD',
  'BlueOak-1.0.0',
  'Unlicense',
  'OFL-1.1',
  '(MIT OR CC0-1.0)',
]);

/** The remark on a package: by its name, or by the family its name begins with. */
export function remarkOn(name: string): string | undefined {
  return Object.entries(remarks).find(([start]) => name.startsWith(start))?.[1];
}

const folderOfModules = 'node_modules/';

/** The packages that Navvy runs with, each version once, by name. */
export function noticesOf(lock: { packages: Readonly<Record<string, LockedPackage>> }): Notice[] {
  const notices = Object.entries(lock.packages)
    .filter(([path, { dev }]) => path !== '' && !dev)
    .map(([path, { version, license, optional }]) => ({
      name: path.slice(path.lastIndexOf(folderOfModules) + folderOfModules.length),
      version,
      license: license ?? 'not stated',
      // Optional ones differ by machine: which of them are installed must not change the notices.
      text: optional ? null : licenceText(join(projectRoot, path)),
    }));
  const once = new Map(notices.map((notice) => [`${notice.name} ${notice.version}`, notice]));
  return [...once.values()].sort((a, b) => (`${a.name} ${a.version}` < `${b.name} ${b.version}` ? -1 : 1));
}

function licenceText(folder: string): string | null {
  if (!existsSync(folder)) return null;
  const file = readdirSync(folder)
    .filter((name) => /^(licen[cs]e|copying)/i.test(name))
    .sort()[0];
  return file ? readFileSync(join(folder, file), 'utf8').replaceAll('\r\n', '\n').trim() : null;
}

/** The document: a table of all, what some ask, and every text once with those that come under it. */
export function noticesDocument(notices: readonly Notice[]): string {
  const byText = groupBy(
    notices.filter(({ text }) => text !== null),
    ({ text }) => text ?? '',
  );
  return [
    '# Third-party notices',
    '',
    'Written by `./navvy notices` from the lock file and the installed packages; a test holds it against them.',
    'Navvy’s own licence is in [LICENSE](LICENSE).',
    '',
    '## What some ask',
    '',
    ...Object.entries(remarks).map(([name, remark]) => `* **${name}**: ${remark}`),
    '',
    '## Packages',
    '',
    '| package | version | licence |',
    '|---|---|---|',
    ...notices.map(({ name, version, license }) => `| ${name} | ${version} | ${license} |`),
    '',
    '## Texts',
    '',
    ...[...byText].flatMap(([text, under]) => [
      `### ${under.map(({ name, version }) => `${name} ${version}`).join(', ')}`,
      '',
      '```text',
      text.replaceAll('```', "'''"),
      '```',
      '',
    ]),
  ].join('\n');
}

const file = join(projectRoot, 'THIRD-PARTY-NOTICES.md');

/** The document as it should be now. */
export function currentNotices(): string {
  const lock = JSON.parse(readFileSync(join(projectRoot, 'package-lock.json'), 'utf8')) as Parameters<
    typeof noticesOf
  >[0];
  return noticesDocument(noticesOf(lock));
}

export const writtenNotices = (): string => readFileSync(file, 'utf8');

export function writeNotices(): void {
  writeFileSync(file, currentNotices());
}
