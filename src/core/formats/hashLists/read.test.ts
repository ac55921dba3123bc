import { createHash } from 'node:crypto';
import fc from 'fast-check';
import { seededRandom } from '../../stats/random';
import { hashListXml } from './write';
import { isSame } from './hashes';
import { HashListError, readHashes } from './read';

/** Lists as others write them, by hand from the published descriptions, with what they say beside them. */

const second = `<?xml version="1.0" encoding="UTF-8"?>
<hashlist version="2.0" xmlns="urn:ASC:MHL:v2.0">
  <creatorinfo>
    <creationdate>2026-11-20T08:00:00+00:00</creationdate>
    <hostname>harbour-cart</hostname>
    <tool version="4.2">Offload</tool>
  </creatorinfo>
  <processinfo>
    <process>in-place</process>
    <roothash>
      <content><xxh64 action="original" hashdate="2026-11-20T08:00:00Z">0102030405060708</xxh64></content>
      <structure><xxh64>1112131415161718</xxh64></structure>
    </roothash>
    <ignore><pattern>.DS_Store</pattern><pattern>ascmhl/</pattern></ignore>
  </processinfo>
  <hashes>
    <hash>
      <path size="1048576" lastmodificationdate="2026-11-19T10:00:00Z">Clips/TW_WALL_0107.mov</path>
      <xxh64 action="verified" hashdate="2026-11-20T08:00:01Z">0EA03B369A463D9D</xxh64>
      <md5 action="new">9eb84090956c484e32cb6c08455a667b</md5>
    </hash>
    <hash>
      <path size="12">Clips/Tide &amp; salt.txt</path>
      <previousPath>Clips/notes.txt</previousPath>
      <c4 action="original">c45WKq8nhZbPmDwWGZbhJFSnVRjTjEvn1Bwy7JpjVEHLYX2sGGtTTphiMnrmCYTDjgm8WG6RQB9LmzzdHLPyMkUqbp</c4>
      <xxh3 action="failed">ffffffffffffffff</xxh3>
    </hash>
    <directoryhash>
      <path lastmodificationdate="2026-11-19T10:00:00Z">Clips</path>
      <content><xxh64>2122232425262728</xxh64></content>
      <structure><xxh64>3132333435363738</xxh64></structure>
    </directoryhash>
  </hashes>
</hashlist>
`;

test('a list of the second form with several hashes, folders, a renamed file and one that failed', () => {
  const read = readHashes(second, '0001_card.mhl');
  expect(read).toEqual({
    form: 'ASC MHL 2.0',
    createdAt: '2026-11-20T08:00:00+00:00',
    by: 'Offload 4.2',
    files: [
      {
        path: 'Clips/TW_WALL_0107.mov',
        bytes: 1_048_576,
        hashes: [
          { name: 'md5', value: '9eb84090956c484e32cb6c08455a667b' },
          { name: 'xxh64', value: '0ea03b369a463d9d' },
        ],
      },
      {
        path: 'Clips/Tide & salt.txt',
        bytes: 12,
        hashes: [
          {
            name: 'c4',
            value:
              'c45WKq8nhZbPmDwWGZbhJFSnVRjTjEvn1Bwy7JpjVEHLYX2sGGtTTphiMnrmCYTDjgm8WG6RQB9LmzzdHLPyMkUqbp',
          },
        ],
      },
    ],
    folders: [
      {
        path: '',
        content: [{ name: 'xxh64', value: '0102030405060708' }],
        structure: [{ name: 'xxh64', value: '1112131415161718' }],
      },
      {
        path: 'Clips',
        content: [{ name: 'xxh64', value: '2122232425262728' }],
        structure: [{ name: 'xxh64', value: '3132333435363738' }],
      },
    ],
    ignored: ['.DS_Store', 'ascmhl/'],
    notes: ['Clips/Tide & salt.txt: the list says that its xxh3 failed; it is not held against it.'],
  });
});

test('a list of the first form: 64 bits in both orders, 32 bits as a decimal', () => {
  const read = readHashes(
    `<?xml version="1.0" encoding="UTF-8"?>
<hashlist version="1.1">
  <creatorinfo><name>Ada</name><tool>Offload 1</tool><startdate>2026-11-20T07:00:00Z</startdate><finishdate>2026-11-20T08:00:00Z</finishdate></creatorinfo>
  <hash><file>A001/one.mov</file><size>10</size><lastmodificationdate>2026-11-19T10:00:00Z</lastmodificationdate><xxhash64be>0EA03B369A463D9D</xxhash64be><hashdate>2026-11-20T07:30:00Z</hashdate></hash>
  <hash><file>A001/two.mov</file><size>20</size><xxhash64>9d3d469a363ba00e</xxhash64></hash>
  <hash><file>A001/three.mov</file><size>30</size><xxhash>4027431614</xxhash><sha1>DA39A3EE5E6B4B0D3255BFEF95601890AFD80709</sha1></hash>
  <hash><file>A001/four.mov</file><size>40</size><null/></hash>
</hashlist>`,
    'card.mhl',
  );
  expect(read).toMatchObject({
    form: 'MHL 1',
    by: 'Offload 1',
    createdAt: '2026-11-20T08:00:00Z',
    notes: [],
  });
  expect(read.files.map(({ path, bytes, hashes }) => [path, bytes, hashes.map(({ name }) => name)])).toEqual([
    ['A001/one.mov', 10, ['xxh64']],
    ['A001/two.mov', 20, ['xxh64']],
    ['A001/three.mov', 30, ['sha1', 'xxh32']],
    ['A001/four.mov', 40, []],
  ]);
  const [one, two, three] = read.files.map(({ hashes }) => hashes);
  expect(isSame(one![0]!, '0ea03b369a463d9d')).toBe(true);
  expect(isSame(one![0]!, '9d3d469a363ba00e')).toBe(false);
  expect(
    ['0ea03b369a463d9d', '9d3d469a363ba00e', '0000000000000000'].map((of) => isSame(two![0]!, of)),
  ).toEqual([true, true, false]);
  expect(three![1]).toEqual({ name: 'xxh32', value: 'f00dbabe' });
});

test('lines: a hash first, read as text or as bytes, or behind its name; names with spaces and line ends', () => {
  const md5 = createHash('md5').update('tide').digest('hex');
  const sha256 = createHash('sha256').update('tide').digest('hex');
  const read = readHashes(
    [
      '\uFEFF# written by hand',
      `${md5}  Clips/TW_WALL_0107.mov`,
      `${md5.toUpperCase()} *./Clips/with  spaces .mov`,
      `\\${md5}  Clips/two\\nlines\\\\.txt`,
      `SHA256 (Clips/a (b) = c.mov) = ${sha256}`,
      `XXH3 (Clips/x.mov) = 0102030405060708`,
      `WHIRL (Clips/y.mov) = 0102030405060708`,
      '',
    ].join('\r\n'),
    'card.md5',
  );
  expect(read.form).toBe('checksums');
  expect(read.files).toEqual([
    { path: 'Clips/TW_WALL_0107.mov', bytes: null, hashes: [{ name: 'md5', value: md5 }] },
    { path: 'Clips/with  spaces .mov', bytes: null, hashes: [{ name: 'md5', value: md5 }] },
    { path: 'Clips/two\nlines\\.txt', bytes: null, hashes: [{ name: 'md5', value: md5 }] },
    { path: 'Clips/a (b) = c.mov', bytes: null, hashes: [{ name: 'sha256', value: sha256 }] },
    { path: 'Clips/x.mov', bytes: null, hashes: [{ name: 'xxh3', value: '0102030405060708' }] },
    { path: 'Clips/y.mov', bytes: null, hashes: [] },
  ]);
  expect(read.notes).toEqual(['Line 7: Clips/y.mov has a hash that cannot be computed here.']);
  // The name of the file tells hashes of the same length apart.
  const named = (name: string) => readHashes(`${md5}  a.mov`, name).files[0]?.hashes[0]?.name;
  expect([named('card.md5'), named('card.xxh128'), named('list.txt')]).toEqual(['md5', 'xxh128', 'md5']);
});

test.each([
  ['<hashlist version="2.0"><hashes><hash>', 'no whole XML'],
  ['<other/>', 'This is no hash list'],
  ['<hashlist version="2.0"><hashes/></hashlist>', 'names no file'],
  ['', 'This is no hash list'],
  ['all is well\n', 'Line 1: "all is well" is not a hash with a path'],
  [`${'0'.repeat(32)}  ../outside.mov`, 'Line 1: "../outside.mov" does not lie in the folder'],
  [`${'0'.repeat(32)}  /etc/outside.mov`, 'does not lie in the folder'],
  [`${'0'.repeat(32)}  C:\\outside.mov`, 'does not lie in the folder'],
  [
    '<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><hashlist version="2.0"/>',
    'declares no document type',
  ],
  [
    '<hashlist version="2.0"><hashes><hash><path>a/../../b</path></hash></hashes></hashlist>',
    'does not lie in the folder',
  ],
])('what is no list is refused in words: %#', (text, message) => {
  expect(() => readHashes(text, 'list.mhl')).toThrow(HashListError);
  expect(() => readHashes(text, 'list.mhl')).toThrow(message);
});

test('what is written here is read as it was', () => {
  const part = fc
    .stringMatching(/^[A-Za-z0-9 _&<>"'äß.-]{1,12}$/)
    .filter((name) => name.trim() === name && !/^\.+$/.test(name));
  const file = fc.record({
    path: fc.array(part, { minLength: 1, maxLength: 4 }).map((parts) => parts.join('/')),
    bytes: fc.nat(),
    xxh64: fc.stringMatching(/^[0-9a-f]{16}$/),
  });
  fc.assert(
    fc.property(
      fc.uniqueArray(file, { selector: ({ path }) => path, minLength: 1, maxLength: 12 }),
      (files) => {
        const at = new Date('2026-11-20T08:00:00Z');
        const xml = hashListXml({
          createdAt: at,
          host: 'slipway',
          toolVersion: '1',
          files: files.map((one) => ({ ...one, modifiedAt: at, hashedAt: at })),
        });
        expect(readHashes(xml, 'x.mhl').files).toEqual(
          files.map(({ path, bytes, xxh64 }) => ({ path, bytes, hashes: [{ name: 'xxh64', value: xxh64 }] })),
        );
      },
    ),
    { numRuns: 300 },
  );
});

test('a thousand broken lists: each is a list of paths in its folder, or refused in words', () => {
  const random = seededRandom(23);
  const lines = `${'a1'.repeat(16)}  Clips/TW_WALL_0107.mov\nXXH64 (b.mov) = 0102030405060708\n`;
  const scraps = ['', '\0', '<', '&', '../', '/', ']]>', '9'.repeat(400), '\uD800', '<!--', ' ', '\n', '"'];
  let taken = 0;
  for (const whole of [second, lines])
    for (let made = 0; made < 1_000; made++) {
      const from = Math.floor(random() * whole.length);
      const to = from + Math.floor(random() * 12);
      const scrap =
        random() < 0.5
          ? (scraps[Math.floor(random() * scraps.length)] as string)
          : whole.slice(from, to).repeat(2);
      const text = whole.slice(0, from) + scrap + whole.slice(to);
      try {
        for (const { path, hashes } of readHashes(text, 'x.mhl').files) {
          expect(path.startsWith('/') || path.split('/').includes('..')).toBe(false);
          expect(hashes.every(({ value }) => /^[0-9a-zA-Z]+$/.test(value))).toBe(true);
        }
        taken++;
      } catch (error) {
        if (!(error instanceof HashListError)) throw new Error(text, { cause: error });
      }
    }
  expect(taken).toBeGreaterThan(400);
});
