import { currentNotices, noticesOf, permissive, remarkOn, writtenNotices } from './notices';

const lockOf = (packages: Parameters<typeof noticesOf>[0]['packages']) => ({ packages });

test('the notices are those of the packages that are installed', () => {
  expect(writtenNotices()).toBe(currentNotices());
});

test('every package is permissive, or said to be otherwise', () => {
  const rows = [...writtenNotices().matchAll(/^\| (\S+) \| (\S+) \| (.+) \|$/gm)].slice(1);
  const packages = rows.map(([, name = '', version = '', license = '']) => ({ name, version, license }));
  expect(packages.length).toBeGreaterThan(200);
  expect(
    packages.filter(({ name, license }) => !permissive.has(license) && remarkOn(name) === undefined),
  ).toEqual([]);
  expect(packages.find(({ name }) => name === 'react')?.license).toBe('MIT');
  expect(packages.some(({ name }) => name === 'jest')).toBe(false);
});

test('a version that lies in several places is named once; what only builds and tests is not', () => {
  const package1 = { version: '1.0.0', license: 'MIT' };
  expect(
    noticesOf(
      lockOf({
        '': { version: '0.1.0' },
        'node_modules/one': package1,
        'node_modules/two/node_modules/one': package1,
        'node_modules/two': { version: '2.0.0' },
        'node_modules/three': { version: '3.0.0', license: 'MIT', dev: true },
      }),
    ).map(({ name, version, license }) => `${name} ${version} ${license}`),
  ).toEqual(['one 1.0.0 MIT', 'two 2.0.0 not stated']);
});
