/** @jest-environment jsdom */
import { fireEvent, screen, within } from '@testing-library/react';
import { DropFiles } from './DropFiles';
import { ImportLook } from './ImportLook';
import { VerifyList } from './VerifyList';
import { inBrowser, press, pushed, read, Refusal, requests, server, settle, show } from '../testing/livePage';
import { VerifyCopy } from '../storage/VerifyCopy';
import type { CopiesPage } from '../pages';

inBrowser();

/** A file as a browser gives it; the one here has no text of its own. */
function fileOf(name: string, text: string): File {
  const file = new File([text], name);
  const slice = (from = 0, to = text.length) => fileOf(name, text.slice(from, to));
  return Object.assign(file, { text: () => Promise.resolve(text), slice });
}

async function drop(...files: readonly File[]): Promise<void> {
  const dataTransfer = { types: ['Files'], files };
  fireEvent.dragOver(document.body, { dataTransfer });
  fireEvent.drop(document.body, { dataTransfer });
  await settle();
  await settle();
}

const report = {
  id: null,
  name: 'card.md5',
  form: 'checksums',
  createdAt: null,
  by: null,
  files: 1_200,
  bytes: null,
  folders: 0,
  hashes: ['md5'],
  notes: ['Line 7: clips/y.mov has a hash that cannot be computed here.'],
  places: [
    { volumeId: 'v1', volumeName: 'Shelf', simulated: true, folder: 'cards/A001', found: 24, of: 24 },
    { volumeId: 'v2', volumeName: 'Edit room', simulated: false, folder: '', found: 3, of: 24 },
  ],
};
const list = fileOf('card.md5', `${'a1'.repeat(16)}  clips/wall.mov\n`);

test('files are told by what they are, each with its own way in; what is none of them is named', async () => {
  server(({ path }) => (path === '/api/hash-lists' ? report : undefined));
  await show(<DropFiles />);
  await drop(
    list,
    fileOf('evening.cube', 'LUT_1D_SIZE 2\n0 0 0\n1 1 1\n'),
    fileOf('notes.txt', 'The wall camera was late.'),
  );
  const dialog = screen.getByRole('dialog', { name: 'Import 3 files' });
  expect(dialog.textContent).toContain('Hash list: card.md5');
  expect(dialog.textContent).toContain('Look: evening.cube');
  expect(within(dialog).getByRole('alert').textContent).toContain('notes.txt is none of the files');
  const reading = {
    path: '/api/hash-lists',
    body: expect.objectContaining({ store: false }) as object,
  };
  expect(requests).toEqual([expect.objectContaining(reading)]);
  // A folder gives no text; what was read before is not read again.
  const folder = Object.assign(fileOf('clips', ''), {
    slice: () => ({ text: () => Promise.reject(new Error('a folder')) }),
  });
  await drop(folder);
  expect(screen.getByRole('dialog', { name: 'Import 4 files' }).textContent).toContain(
    'clips cannot be read. A folder of media comes in as a volume',
  );
  expect(requests).toHaveLength(1);
  await drop(...Array.from({ length: 22 }, (_, at) => fileOf(`notes ${at}.txt`, 'late')));
  expect(dialog.textContent).toContain('20 files are taken at once. 2 more were left out');
});

test('an event that another place took already, or that holds no files, is left alone', async () => {
  await show(<DropFiles />);
  fireEvent.drop(document.body, { dataTransfer: { types: ['text/plain'], files: [] } });
  const taken = (event: Event) => event.preventDefault();
  document.body.addEventListener('drop', taken);
  await drop(list);
  document.body.removeEventListener('drop', taken);
  expect(screen.queryByRole('dialog')).toBeNull();
});

test('a hash list says what is in it and where that lies; it is kept and verified only then', async () => {
  server(({ path, method, body }) =>
    path === '/api/hash-lists'
      ? { ...report, id: (body as { store: boolean }).store ? 'kept' : null }
      : path === '/api/trials' && method === 'POST'
        ? { id: 'made' }
        : undefined,
  );
  let done = 0;
  await show(<VerifyList source={{ file: list }} onDone={() => done++} />);
  await settle();
  expect(screen.getByRole('status').textContent).toMatch(
    /^card\.md5 \(checksums\): 1\s200 files; hashes: md5\. Nothing is stored yet\.$/,
  );
  expect(read()).toContain('Line 7: clips/y.mov has a hash that cannot be computed here.');
  expect(read()).toContain('Shelf (simulated), cards/A001: 24 of 24 files looked for are there');
  fireEvent.change(screen.getByLabelText('Folder to verify'), { target: { value: 'v2 ' } });
  await press('Verify');
  await settle();
  expect(requests.map(({ path, body }) => [path, body])).toEqual([
    ['/api/hash-lists', expect.objectContaining({ store: false })],
    ['/api/hash-lists', expect.objectContaining({ store: true, name: 'card.md5' })],
    ['/api/trials', { kind: 'verification', volumeId: 'v2', folder: '', listId: 'kept' }],
  ]);
  expect([pushed, done]).toEqual([['/storage/trials/made'], 1]);
});

test('a list that nothing here belongs to says what to do; one that cannot be read says where', async () => {
  server(({ path }) => (path === '/api/hash-lists' ? { ...report, places: [] } : undefined));
  await show(<VerifyList source={{ file: list }} onDone={() => undefined} />);
  await settle();
  expect(read()).toContain('No volume here has any of its files.');
  expect(screen.queryByRole('button', { name: 'Verify' })).toBeNull();
  server(({ path }) =>
    path === '/api/hash-lists' ? new Refusal('card.mhl cannot be read. Line 3: it is cut off.') : undefined,
  );
  await show(<VerifyList source={{ volumeId: 'v1', path: 'cards/card.mhl' }} onDone={() => undefined} />);
  await settle();
  expect(screen.getByRole('alert').textContent).toContain('Line 3: it is cut off.');
});

test('a look is read in the browser and sent only when it is wanted', async () => {
  server(({ path }) =>
    path === '/api/looks' ? { id: 'l1', name: 'evening', dimensions: 1, size: 2 } : undefined,
  );
  await show(
    <ImportLook file={fileOf('evening.cube', 'LUT_1D_SIZE 2\n0 0 0\n1 1 1\n')} onDiscard={() => undefined} />,
  );
  await settle();
  expect(screen.getByRole('status').textContent).toContain('curves of 2 points. Nothing is stored yet.');
  expect(requests).toEqual([]);
  await press('Import');
  expect(screen.getByRole('status').textContent).toContain('It is imported');
  expect(requests).toHaveLength(1);
  const shaped = `LUT_1D_SIZE 2\nLUT_3D_SIZE 2\n0 0 0\n1 1 1\n${'0 0 0\n'.repeat(8)}`;
  await show(<ImportLook file={fileOf('shaped.cube', shaped)} onDiscard={() => undefined} />);
  await settle();
  expect(read()).toContain('curves of 2 points, then a grid of 2 points each way. Nothing is stored yet.');
  await show(<ImportLook file={fileOf('cut.cube', 'LUT_1D_SIZE 2\n0 0 0\n')} onDiscard={() => undefined} />);
  await settle();
  expect(screen.getByRole('alert').textContent).toContain('cut.cube cannot be read. ');
});

test('lists on a volume are found and offered, the newest first; none is said', async () => {
  const volumes = [
    { id: 'v1', name: 'Shelf', standIn: null },
    { id: 'v2', name: 'Edit room', standIn: null },
  ] as unknown as CopiesPage['volumes'];
  server(({ path }) =>
    path === '/api/volumes/v1/hash-lists'
      ? [{ path: 'cards/A001/ascmhl/0001_A001.mhl', bytes: 2_000, modifiedMs: 1_795_000_000_000 }]
      : path === '/api/volumes/v2/hash-lists'
        ? []
        : path === '/api/hash-lists'
          ? report
          : undefined,
  );
  await show(<VerifyCopy volumes={volumes} />);
  await press('Find its hash lists');
  fireEvent.change(screen.getByLabelText('Hash list'), {
    target: { value: 'cards/A001/ascmhl/0001_A001.mhl' },
  });
  await settle();
  expect(requests.at(-1)?.body).toEqual({
    volumeId: 'v1',
    path: 'cards/A001/ascmhl/0001_A001.mhl',
    store: false,
  });
  fireEvent.change(screen.getByLabelText('Volume with the list'), { target: { value: 'v2' } });
  await press('Find its hash lists');
  expect(read()).toContain('No hash list lies on this volume.');
});
