import { createHash } from 'node:crypto';
import { PhasedTimeLeft } from '../tasks/phasedTimeLeft';
import { readHashes } from './hashLists/read';
import { c4Id, chainXml, hashListXml, readChain } from './hashLists/write';

const file = {
  path: 'A001/TW & <WALL>_0107.mov',
  bytes: 12_345,
  modifiedAt: new Date('2026-11-24T08:15:30.500Z'),
  xxh64: '0ea03b369a463d9d',
  hashedAt: new Date('2026-11-25T09:15:00Z'),
};

test('a hash list names its files, sizes and hashes, and is read back', () => {
  const xml = hashListXml({
    createdAt: new Date('2026-11-25T09:15:00.123Z'),
    host: 'slipway',
    toolVersion: '1',
    files: [file, { ...file, path: 'b.mov' }],
  });
  expect(xml).toContain('<hashlist version="2.0" xmlns="urn:ASC:MHL:v2.0">');
  expect(xml).toContain('<creationdate>2026-11-25T09:15:00Z</creationdate>');
  expect(xml).toContain('<process>transfer</process>');
  expect(xml).toContain(
    '<path size="12345" lastmodificationdate="2026-11-24T08:15:30Z">A001/TW &amp; &lt;WALL&gt;_0107.mov</path>',
  );
  expect(xml).toContain('<xxh64 action="original" hashdate="2026-11-25T09:15:00Z">0ea03b369a463d9d</xxh64>');
  const hashes = [{ name: 'xxh64', value: file.xxh64 }];
  expect(readHashes(xml, 'list.mhl').files).toEqual([
    { path: file.path, bytes: 12_345, hashes },
    { path: 'b.mov', bytes: 12_345, hashes },
  ]);
});

test('a chain keeps its generations', () => {
  const entries = [
    { sequence: 1, path: '0001_A_2026-11-25_091500Z.mhl', c4: 'c41' },
    { sequence: 2, path: '0002_A_2026-11-26_091500Z.mhl', c4: 'c42' },
  ];
  expect(readChain(chainXml(entries))).toEqual(entries);
  expect(() => readChain('<hashlist/>')).toThrow('no chain');
});

test('the C4 identifier of the empty input is the one its standard lists', () => {
  expect(c4Id(createHash('sha512').digest())).toBe(
    'c459dsjfscH38cYeXXYogktxf4Cd9ibshE3BHUo6a58hBXmRQdZrAkZzsWcbWtDg5oQstpDuni4Hirj75GEmTc1sFT',
  );
});

/** Reports once a second; returns what was shown each time. */
function shown(
  totals: { copy: number; verify: number },
  steps: readonly ['copy' | 'verify', number][],
): number[] {
  const left = new PhasedTimeLeft(totals);
  left.observe('copy', 0, 0);
  return steps.map(([phase, units], second) => {
    left.observe(phase, units, (second + 1) * 1000);
    return (left.remainingMs ?? Number.NaN) / 1000;
  });
}

test('time left runs down evenly while phases of different rates alternate', () => {
  // Copy 10 units a second for 5 s, verify 25 a second for 2 s: 20 rounds of 50 units
  const steps = Array.from({ length: 20 }, () => [
    ...Array.from({ length: 5 }, () => ['copy', 10] as ['copy', number]),
    ...Array.from({ length: 2 }, () => ['verify', 25] as ['verify', number]),
  ]).flat();
  const left = shown({ copy: 1000, verify: 1000 }, steps);
  for (let second = 25; second < left.length - 1; second++) {
    expect(Math.abs(left[second]! - (steps.length - second - 1))).toBeLessThan(8);
    expect(Math.abs(left[second]! - left[second - 1]! + 1)).toBeLessThan(2.5); // falls by about a second each second
  }
});

test('a hiccup moves the time left gently, and nothing is promised before a rate is known', () => {
  const left = shown(
    { copy: 1000, verify: 0 },
    Array.from({ length: 40 }, (_, second) => ['copy', second >= 20 && second < 23 ? 0 : 20]),
  );
  for (let second = 3; second < left.length; second++)
    expect(left[second]! - left[second - 1]!).toBeLessThan(6);
  expect(new PhasedTimeLeft({ copy: 5 }).remainingMs).toBeNull();
});
