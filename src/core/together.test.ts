import { together } from './together';

test('several things are waited for at once, each under its name', async () => {
  const begun: string[] = [];
  const later = async (name: string, turns: number): Promise<string> => {
    begun.push(name);
    for (let turn = 0; turn < turns; turn++) await Promise.resolve();
    begun.push(`${name} done`);
    return name.toUpperCase();
  };
  expect(await together({ slow: later('slow', 9), quick: later('quick', 2), there: 7 })).toEqual({
    slow: 'SLOW',
    quick: 'QUICK',
    there: 7,
  });
  expect(begun).toEqual(['slow', 'quick', 'quick done', 'slow done']);
});

test('the first that fails is told', async () => {
  await expect(
    together({ good: Promise.resolve(1), bad: Promise.reject(new Error('gone')) }),
  ).rejects.toThrow('gone');
});
