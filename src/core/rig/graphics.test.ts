import { engineWork, noGraphics, summariseGraphics } from './graphics';

test('each figure has its mean and its most over the looks that told it', () => {
  expect(
    summariseGraphics([
      { ...noGraphics, graphicsLoad: 0.2, trialGraphicsMemoryBytes: 100 },
      { ...noGraphics, graphicsLoad: 0.6 },
      { ...noGraphics, trialGraphicsMemoryBytes: 400 },
    ]),
  ).toEqual({
    ...noGraphics,
    graphicsLoad: { mean: 0.4, most: 0.6 },
    trialGraphicsMemoryBytes: { mean: 250, most: 400 },
  });
  expect(summariseGraphics([noGraphics, noGraphics])).toBeNull();
  expect(summariseGraphics([])).toBeNull();
});

test.each([
  ['gfx', ['draw']],
  ['render', ['draw']],
  ['ccs', ['draw']],
  ['dec', ['decode']],
  ['jpeg', ['decode']],
  ['enc_1', ['encode']],
  ['video', ['decode', 'encode']],
  ['vcs', ['decode', 'encode']],
  ['video-enhance', []],
  ['copy', []],
  ['dma', []],
])('the engine that a driver calls %s does %j', (name, work) => {
  expect(engineWork(name)).toEqual(work);
});
