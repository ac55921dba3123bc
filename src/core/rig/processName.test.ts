import { wholeName } from './processName';

test('a name that the system cut is whole again, by what the command line says', () => {
  expect(wholeName('next-server (v1', 'next-server (v16.4.0)\0')).toBe('next-server (v16.4.0)');
  expect(wholeName('a-program-with-', '/usr/lib/x/a-program-with-a-long-name\0--a-program-with-\0')).toBe(
    'a-program-with-a-long-name',
  );
  expect(wholeName('nightly-backup-', '/bin/sh\0/opt/nightly-backup-of-cards.sh\0now\0')).toBe(
    'nightly-backup-of-cards.sh',
  );
});

test('a title that holds its switches as well ends before them', () => {
  expect(wholeName('some-browser-of', '/opt/some-browser-of-ours --type=renderer --flag=a/b -x\0')).toBe(
    'some-browser-of-ours',
  );
});

test('a name that is whole, or of which nothing more is told, stays', () => {
  expect(wholeName('node', '/usr/bin/node\0node-of-another-name\0')).toBe('node');
  expect(wholeName('kworker/u8:2-events_unbound', '')).toBe('kworker/u8:2-events_unbound');
  expect(wholeName('fifteen-letters', '')).toBe('fifteen-letters');
  expect(wholeName('fifteen-letters', '/usr/bin/other\0')).toBe('fifteen-letters');
});
