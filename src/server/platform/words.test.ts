import { wordsFor, type Words } from '@/core/failure';
import { coreWords } from '@/core/words';
import { EngineError, errorCode, fileError } from '@/engine/errors';
import { engineWords } from '@/engine/words';
import { RequestError } from './errors';
import { refusalFor } from './http';
import { refusals } from './words';

const all: readonly (readonly [layer: string, code: string, words: Words])[] = [
  ...Object.entries(coreWords).map(([code, words]) => ['core', code, words] as const),
  ...Object.entries(engineWords).map(([code, words]) => ['engine', code, words] as const),
  ...Object.entries(refusals).map(([code, [, words]]) => ['server', code, words] as const),
];

/** What is given to words as a number; all else is a text, and one thing a list. */
const numbers = new Set(['bytes', 'free', 'ms', 'reserve', 'room', 'written']);
/** Whatever words ask for. */
const anything = new Proxy(
  {},
  {
    get: (_, name) =>
      name === 'conflicts' ? ['A001', 'A002'] : numbers.has(String(name)) ? 12 : `Its ${String(name)}.`,
  },
);

test.each(all)(
  '%s %s has words that are a sentence and say all that they are given',
  (layer, code, words) => {
    expect(code).toMatch(/^[a-z0-9]+(-[a-z0-9]+)*$/);
    if (typeof words === 'string') {
      // Behind a line or a place a sentence begins small.
      expect(words).toMatch(layer === 'core' ? /^\S.*\.$/ : /^[A-Z].*\.$/);
      return;
    }
    const told = wordsFor(words, anything);
    expect(told).not.toMatch(/undefined|NaN|\[object/);
    expect(told).toMatch(/\S.*\.$/);
  },
);

test('a code says the same thing everywhere', () => {
  const codes = new Map<string, string>();
  for (const [layer, code, words] of all) {
    const told = wordsFor(words, anything);
    expect([layer, code, codes.get(code) ?? told]).toEqual([layer, code, told]);
    codes.set(code, told);
  }
});

test('statuses are those of refusals', () => {
  for (const [, [status]] of Object.entries(refusals))
    expect([400, 404, 409, 413, 500, 503]).toContain(status);
});

test.each([
  ['ENOENT', 'file-missing', 'is not there'],
  ['EACCES', 'file-forbidden', 'Give permission'],
  ['ENOSPC', 'volume-full', 'the volume is full'],
  ['EROFS', 'volume-read-only', 'read-only'],
  ['EIO', 'device-read-error', 'read error from the device'],
  ['ESTALE', 'store-dropped-out', 'dropped out'],
  ['ENOTCONN', 'store-went-away', 'the mount, the server or the link to it is down'],
  ['ETIMEDOUT', 'store-went-away', 'Mount it again'],
  ['ENODEV', 'drive-went-away', 'no longer connected'],
  ['EWHATEVER', 'file-unusable', 'could not be used: it said so.'],
] as const)('what the system calls %s is the failure %s', (system, code, words) => {
  const cause = Object.assign(new Error('it said so'), { code: system });
  const failure = fileError(cause, '/media/A001.mov');
  expect(failure).toMatchObject({ code, cause, message: expect.stringContaining(words) as string });
  expect(failure.message).toMatch(/^\/media\/A001\.mov /);
  // What has its words keeps them, and is no error of the system any more.
  expect(fileError(failure, '/elsewhere')).toBe(failure);
  expect([errorCode(cause), errorCode(failure)]).toEqual([system, null]);
});

test('an answer has the code, the words and the field of what was refused', () => {
  const refused = new RequestError('chosen-volume-read-only', { name: 'Card' }, 'volumeId');
  expect(refusalFor(refused)).toEqual({
    status: 409,
    code: 'chosen-volume-read-only',
    message: 'Card is read-only. Choose another volume.',
    field: 'volumeId',
  });
  expect(refusalFor(new EngineError('no-encoder', { encoder: 'x' }))).toMatchObject({
    status: 400,
    code: 'no-encoder',
  });
});

test('a code is written with what it is about', () => {
  const wrong = () => [
    // @ts-expect-error no such code
    new RequestError('nothing'),
    // @ts-expect-error what it is about is missing
    new EngineError('no-encoder'),
    // @ts-expect-error it is about something else
    new EngineError('no-encoder', { path: '/x' }),
    new RequestError('no-such-trial'),
  ];
  expect(wrong).toBeInstanceOf(Function);
});
