import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { EngineError } from '@/engine/errors';
import { workFolder } from '@/engine/testing/testTrial';
import { MediaReader } from './mediaReader';

/** A reading process that does what its file's name says. */
const script = `
process.on('message', ({ turn, job }) => {
  const name = job.path.split('/').at(-1);
  if (name === 'crash') process.kill(process.pid, 'SIGSEGV');
  else if (name === 'exit') process.exit(3);
  else if (name === 'hang') setInterval(() => undefined, 1000);
  else if (name === 'busy') for (;;);
  else if (name === 'slow') { let left = 6; const timer = setInterval(() => { process.send({ turn, type: 'progress' }); if (--left === 0) { clearInterval(timer); process.send({ turn, type: 'done', result: { slow: true } }); } }, 200); }
  else if (name === 'broken') process.send({ turn, type: 'failed', expected: true, message: 'The file is broken.' });
  else if (name === 'bug') process.send({ turn, type: 'failed', expected: false, message: 'undefined is no function' });
  else process.send({ turn, type: 'done', result: { pid: process.pid, name } });
});
process.on('disconnect', () => process.exit(0));
process.send({ turn: 0, type: 'up' });
`;

let reader: MediaReader;

beforeAll(async () => {
  const folder = join(await workFolder(), 'reader');
  await mkdir(folder, { recursive: true });
  await writeFile(join(folder, 'media.mjs'), script);
  reader = new MediaReader(join(folder, 'media.mjs'), 800);
});
afterAll(() => reader.stop());

const ask = (name: string) =>
  reader.ask({ kind: 'probe', path: `/files/${name}` }) as unknown as Promise<{ pid: number; name: string }>;

test('one process reads many files', async () => {
  const [first, second] = await Promise.all([ask('a'), ask('b')]);
  expect(first.name).toBe('a');
  expect(second).toEqual({ pid: first.pid, name: 'b' });
});

test('a process that is slow to come up is no fault of the file', async () => {
  const late = join(await workFolder(), 'reader', 'late.mjs');
  await writeFile(late, `const until = Date.now() + 1_500; while (Date.now() < until);\n${script}`);
  const patient = new MediaReader(late, 300);
  try {
    expect(await patient.ask({ kind: 'probe', path: '/files/a' })).toMatchObject({ name: 'a' });
    await expect(patient.ask({ kind: 'probe', path: '/files/hang' })).rejects.toThrow('nothing moved');
  } finally {
    patient.stop();
  }
});

test.each([
  ['crash', 'Reading it ended the reading process (signal SIGSEGV)'],
  ['exit', 'Reading it ended the reading process (exit code 3)'],
  ['hang', 'Reading it came to no end: nothing moved for 1\u202fs'],
  ['busy', 'Reading it came to no end: nothing moved for 1\u202fs'],
])(
  'a file at which the process does "%s" is said so, and the next is read by another process',
  async (name, message) => {
    const before = await ask('before');
    await expect(ask(name)).rejects.toThrow(message);
    await expect(ask(name)).rejects.toBeInstanceOf(EngineError);
    const after = await ask('after');
    expect(after.pid).not.toBe(before.pid);
  },
);

test('a long file is no hang as long as it moves', async () => {
  expect(await ask('slow')).toEqual({ slow: true });
});

test('faults of the file and faults of ours are told apart', async () => {
  await expect(ask('broken')).rejects.toThrow(
    new EngineError('reader-failed', { reason: 'The file is broken.' }),
  );
  const fault = await ask('bug').catch((error: unknown) => error);
  expect(fault).not.toBeInstanceOf(EngineError);
  expect((fault as Error).message).toBe('undefined is no function');
});
