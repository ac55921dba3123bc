import fc from 'fast-check';
import { slowing } from './history';
import { ladderCell, ladderDomain, spreadLabels } from './ladder';
import { ladderSentence } from '../sentences/storage';

const rung = {
  id: 'a',
  name: 'UHD all-intra',
  detail: '',
  demand: { meanBitsPerSecond: 400e6, peakBitsPerSecond: 480e6 },
};

test('a rung meets a band: by hand', () => {
  const usage = { streams: 2, speed: 1, margin: 0.25 };
  expect(ladderCell(rung, { sustained: 300e6 }, usage)).toEqual({ fit: 'plays', headroom: 1.5, streams: 4 });
  expect(ladderCell(rung, { sustained: 130e6 }, usage)).toMatchObject({ fit: 'without margin', streams: 1 });
  expect(ladderCell(rung, { sustained: 60e6 }, usage)).toEqual({
    fit: 'too slow',
    headroom: -0.5,
    streams: 0,
  });
});

test('a meeting in words', () => {
  const say = (sustained: number, streams = 1) =>
    ladderSentence(
      rung.name,
      'Shuttle SSD',
      ladderCell(rung, { sustained }, { streams, speed: 1, margin: 0.25 }),
      streams,
    );
  expect(say(300e6)).toBe(
    'UHD all-intra from Shuttle SSD: plays with 400\u202f% headroom; 4 streams fit with the margin.',
  );
  expect(say(130e6, 2)).toBe(
    '2 streams of UHD all-intra from Shuttle SSD: plays, but inside the margin, with 8\u202f% headroom; one stream fits with the margin.',
  );
  expect(say(30e6)).toBe(
    'UHD all-intra from Shuttle SSD: too slow by 50\u202f%; not one stream fits with the margin.',
  );
});

test('the axis holds everything, and something when there is nothing', () => {
  expect(
    ladderDomain(
      [{ mean: 10e6, peak: 12e6, required: 13e6 }],
      [{ id: '', name: '', p5: 90e6, p95: 130e6, sustained: 80e6 }],
    ),
  ).toEqual([10e6 / 1.3, 169e6]);
  expect(ladderDomain([], [])).toEqual([10e6, 100e6]);
});

test('labels keep their order and their distance, and stay where there is room', () => {
  expect(spreadLabels([10, 50, 90], 15, 0, 100)).toEqual([10, 50, 90]);
  expect(spreadLabels([50, 50, 50], 10, 0, 100)).toEqual([40, 50, 60]);
  expect(spreadLabels([98, 99], 10, 0, 100)).toEqual([90, 100]);
  fc.assert(
    fc.property(fc.array(fc.double({ min: 0, max: 400, noNaN: true }), { maxLength: 20 }), (places) => {
      const spread = spreadLabels(
        places.sort((a, b) => a - b),
        15,
        0,
        400,
      );
      return spread.every(
        (place, index) =>
          place >= -1e-6 &&
          place <= 400 + 1e-6 &&
          (index === 0 || place - (spread[index - 1] as number) >= 15 - 1e-6),
      );
    }),
  );
});

test('a drive that slows is told from one that does not', () => {
  const of = (...rates: number[]) => rates.map((sustained) => ({ sustained }));
  expect(slowing(of(100, 90))).toBeNull();
  expect(slowing(of(100, 110, 90, 80))).toEqual({ ratio: 0.8, slower: true });
  expect(slowing(of(100, 110, 90, 95))).toEqual({ ratio: 0.95, slower: false });
});
