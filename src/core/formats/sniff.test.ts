import { incomingKind } from './sniff';

test.each<[string, string, ReturnType<typeof incomingKind>]>([
  ['reel.otio', '{\n "OTIO_SCHEMA": "Timeline.1"', 'timeline'],
  ['reel.json', '{ "metadata": {}, "OTIO_SCHEMA": "Timeline.1"', 'timeline'],
  ['results.json', '{"format":"navvy-results","version":3', 'bundle'],
  ['settings.json', '{"theme":"dark"}', null],
  ['reel.edl', 'TITLE: REEL ONE\nFCM: NON-DROP FRAME\n', 'timeline'],
  ['reel.txt', '001  WALL0107 V     C        07:12:40:00 07:12:44:00 01:00:00:00 01:00:04:00\n', 'timeline'],
  ['reel.txt', '000001  BL AA/V C 00:00:00;00 00:00:01;00 01:00:00;00 01:00:01;00\n', 'timeline'],
  ['evening.cube', '# a look\nTITLE "Evening"\nLUT_3D_SIZE 17\n', 'look'],
  ['evening.txt', 'LUT_1D_SIZE 2\n0 0 0\n1 1 1\n', 'look'],
  ['0001_card.mhl', '<?xml version="1.0"?>\n<hashlist version="2.0">', 'hash-list'],
  ['card.xml', '<?xml version="1.0"?><a:hashlist xmlns:a="urn:ASC:MHL:v2.0" version="2.0">', 'hash-list'],
  ['project.xml', '<?xml version="1.0"?><project/>', null],
  ['card.md5', `${'a1'.repeat(16)}  clips/wall.mov\n`, 'hash-list'],
  ['list.txt', `SHA256 (clips/wall.mov) = ${'a1'.repeat(32)}\n`, 'hash-list'],
  ['list.txt', '\uFEFF# by hand\n\\a1b2c3d4e5f60718  two\\nlines\n', 'hash-list'],
  ['notes.txt', 'The wall camera was late.\n', null],
  ['empty.edl', '', 'timeline'],
  ['clip.mov', '\0\0\0\u0014ftypqt  ', null],
])('%s that begins %j is %s', (name, head, kind) => {
  expect(incomingKind(name, head)).toBe(kind);
});
