import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { WatchedProcess } from './watchedProcess';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'navvy-watched-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

/** Watches a process that does what is given when it is told to start. */
async function watch(does: string) {
  const path = join(folder, 'process.cjs');
  await writeFile(path, `process.on('message', () => { ${does} });`);
  return new WatchedProcess('rendition', path, {} as never, {
    watchdogMs: 600_000,
    onMessage: () => undefined,
  });
}

function isThere(pid: number): boolean {
  try {
    return process.kill(pid, 0);
  } catch {
    return false;
  }
}

const finished = "process.send({ type: 'finished', stopped: null });";

test('a process that has said its last word and does not go is ended, and its word holds', async () => {
  const watched = await watch(`${finished} setInterval(() => undefined, 1000);`);
  expect(await watched.ended).toMatchObject({ kind: 'done', last: { stopped: null } });
  expect(isThere(watched.pid!)).toBe(false);
});

test('a process that has gone is not waited for when another holds its channel open', async () => {
  const note = join(folder, 'other');
  const watched = await watch(`
    const other = require('node:child_process').spawn('sleep', ['600'], { detached: true, stdio: ['ignore', 'ignore', 'ignore', 3] });
    require('node:fs').writeFileSync(${JSON.stringify(note)}, String(other.pid));
    process.send({ type: 'finished', stopped: null }, () => process.exit(0));
  `);
  const end = await watched.ended;
  const other = Number(await readFile(note, 'utf8'));
  const held = isThere(other);
  process.kill(other);
  expect([end.kind, held]).toEqual(['done', true]);
});

test('a process that goes without a word has crashed', async () => {
  expect(await (await watch('process.exit(3);')).ended).toEqual({
    kind: 'crashed',
    message: 'The trial process ended unexpectedly (exit code 3).',
  });
});
