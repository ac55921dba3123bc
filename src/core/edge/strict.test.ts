import {
  array,
  boolean,
  byWord,
  identity,
  number,
  object,
  record,
  string,
  unsoundJson,
  word,
} from './strict';

const shape = object({
  name: string().trim().max(20).required(),
  count: number().integer().min(0).max(100).required(),
  on: boolean().default(false),
  ids: array(identity().required()).max(3).default([]),
});
const check = (body: unknown) => shape.validate(body, { stripUnknown: true });

test('what is of the right form comes through, trimmed and with what is usual', async () => {
  await expect(check({ name: ' Reel ', count: 3, extra: 1 })).resolves.toEqual({
    name: 'Reel',
    count: 3,
    on: false,
    ids: [],
  });
});

test.each<[string, unknown]>([
  ['a list as text', { name: ['a'], count: 1 }],
  ['an object as text', { name: { toString: 1 }, count: 1 }],
  ['a number as text', { name: 5, count: 1 }],
  ['text as a number', { name: 'a', count: '5' }],
  ['a list as a number', { name: 'a', count: [5] }],
  ['text as a truth', { name: 'a', count: 1, on: 'true' }],
  ['text as a list', { name: 'a', count: 1, ids: '["a"]' }],
  ['text as an object', '{"name":"a","count":1}'],
  ['nothing', null],
  ['a list', []],
  ['a NUL', { name: 'a\0', count: 1 }],
  ['half a character', { name: 'a\ud800', count: 1 }],
  ['a number without end', { name: 'a', count: Infinity }],
  ['a number that cannot be counted', { name: 'a', count: 2 ** 60 }],
  ['a part of one', { name: 'a', count: 1.5 }],
  ['an id with a way out', { name: 'a', count: 1, ids: ['../x'] }],
  ['an id of a prototype', { name: 'a', count: 1, ids: ['__proto__'] }],
  ['more than may be', { name: 'a', count: 1, ids: ['a', 'b', 'c', 'd'] }],
])('%s is refused with its place, and is not repeated', async (_, body) => {
  await expect(check(body)).rejects.toMatchObject({ name: 'ValidationError' });
  const message = await check(body).then(String, (error: unknown) =>
    String(error).replace('ValidationError: ', ''),
  );
  expect(message.length).toBeLessThan(120);
  expect(message).toMatch(/^(“\w+(\[0\])?”|What was sent) /);
});

test('fields with the names of what objects can do are left out like other unknown ones', async () => {
  const body = JSON.parse(
    '{"name":"a","count":1,"toString":1,"constructor":{},"__proto__":{"on":true}}',
  ) as object;
  await expect(check(body)).resolves.toEqual({ name: 'a', count: 1, on: false, ids: [] });
});

test('a text of megabytes is refused with a short sentence', async () => {
  const message = await check({ name: 'x'.repeat(5e6), count: 1 }).then(String, (error: unknown) =>
    String(error).replace('ValidationError: ', ''),
  );
  expect(message).toBe('“name” has at most 20 characters.');
});

test('a whole character of two halves is kept', async () => {
  await expect(check({ name: '🎞 a', count: 1 })).resolves.toMatchObject({ name: '🎞 a' });
});

test('one of several forms is told by its word', () => {
  const forms = byWord('kind', {
    dot: object({ kind: word('dot'), at: number().required() }),
    line: object({ kind: word('line'), to: number().required() }),
  });
  const list = array(forms).required();
  expect(list.validateSync([{ kind: 'dot', at: 1, to: 2 }], { stripUnknown: true })).toEqual([
    { kind: 'dot', at: 1 },
  ]);
  for (const [wrong, say] of [
    [[{ kind: 'line', at: 1 }], '[0].to'],
    [[{ kind: 'arc' }], 'dot, line'],
    [[{ kind: 'toString' }], 'dot, line'],
    [[null], '[0]'],
    [[3], '[0]'],
  ] as const)
    expect(() => list.validateSync(wrong)).toThrow(say);
});

test('entries by their names are checked one by one', () => {
  const notes = object({ by: record(object({ text: string().required() }), { most: 2 }).required() });
  expect(notes.validateSync({ by: { a: { text: 'x', more: 1 } } }, { stripUnknown: true })).toEqual({
    by: { a: { text: 'x' } },
  });
  for (const [by, say] of [
    [{ a: { text: 3 } }, 'text'],
    [{ a: null }, '“by.a”'],
    [{ 'a b': { text: 'x' } }, 'without a name'],
    [JSON.parse('{"__proto__":{"text":"x"}}') as unknown, 'without a name'],
    [{ a: { text: 'x' }, b: { text: 'x' }, c: { text: 'x' } }, 'at most 2'],
    [[], 'must be'],
    ['x', 'must be'],
  ] as const)
    expect(() => notes.validateSync({ by })).toThrow(say);
});

test('JSON is looked through for what cannot be kept, however deep', () => {
  const nested = (levels: number): unknown => (levels === 0 ? 1 : [nested(levels - 1)]);
  expect(unsoundJson({ a: [{ b: 'fine' }], c: null, d: 1.5 })).toBeNull();
  expect(unsoundJson(nested(30))).toBeNull();
  expect(unsoundJson(nested(60))).toContain('nested');
  expect(unsoundJson(JSON.parse(`${'['.repeat(100_000)}${']'.repeat(100_000)}`))).toContain('nested');
  expect(unsoundJson({ a: { b: ['x\0'] } })).toContain('characters');
  expect(unsoundJson({ 'a\0': 1 })).toContain('name');
  expect(unsoundJson(JSON.parse('[1e999]'))).toContain('finite');
});
