import fc from 'fast-check';
import { nextLevel, rampResult, type RampProbe } from './ramp';
import { rampSentence, costsSentence } from '../sentences/timeline';

/** Plays levels until the edge is found, on a rig that carries `edge`. */
function search(edge: number, most: number): number[] {
  const probes: { level: number; dropped: number }[] = [];
  for (let level = nextLevel(probes, most); level !== null; level = nextLevel(probes, most)) {
    probes.push({ level, dropped: level > edge ? 5 : 0 });
    if (probes.length > 50) throw new Error('never ends');
  }
  return probes.map(({ level }) => level);
}

test('the edge is found in few steps, wherever it lies', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 80 }), fc.integer({ min: 1, max: 64 }), (edge, most) => {
      const levels = search(edge, most);
      expect(levels.length).toBeLessThanOrEqual(2 * Math.ceil(Math.log2(most + 1)) + 2);
      expect(levels.every((level) => level >= 1 && level <= most)).toBe(true);
      if (edge < most) {
        expect(levels).toContain(edge + 1);
        if (edge > 0) expect(levels).toContain(edge);
      } else expect(levels.at(-1)).toBe(most);
    }),
  );
  expect(search(5, 16)).toEqual([1, 2, 4, 8, 6, 5]);
});

test('the result names the edge and who was late there', () => {
  const probe = (scale: RampProbe['scale'], level: number, dropped: number, charge = 0): RampProbe => ({
    scale,
    level,
    slots: 48,
    dropped,
    charge,
  });
  const result = rampResult(
    'streams',
    ['full', 'half', 'quarter'],
    [
      probe('full', 1, 3, 4),
      probe('half', 1, 0),
      probe('half', 2, 9, 2),
      probe('quarter', 1, 0),
      probe('quarter', 2, 0),
    ],
  );
  expect(result.edges).toEqual([
    { scale: 'full', plays: 0, drops: 1, charge: 4 },
    { scale: 'half', plays: 1, drops: 2, charge: 2 },
    { scale: 'quarter', plays: 2, drops: null, charge: 0 },
  ]);
  expect(rampSentence(result, (charge) => `cause ${charge}`)).toBe(
    'Full scale does not play 1 stream; cause 4. Half scale plays 1 stream; at 2 cause 2. Quarter scale plays 2 streams, the most that was tried.',
  );
});

test('a calibration says what costs most', () => {
  expect(
    costsSentence({
      width: 1920,
      height: 1080,
      scales: [{ scale: 'full', baseUs: 11_000, layerUs: 1, effects: { blur: 28_000, saturation: 9_000 } }],
    }),
  ).toBe(
    'At full scale of 1920x1080 a plain layer takes 11.0\u202fms; the dearest effect is blur, which adds 28.0\u202fms.',
  );
  const scales = [{ scale: 'full' as const, baseUs: 5_000, layerUs: 1, effects: { blur: 28_000 } }];
  expect(
    costsSentence({ width: 1920, height: 1080, scales, deep: [{ ...scales[0]!, baseUs: 9_000 }] }),
  ).toContain('a plain layer takes 5.0\u202fms in 8 bits and 9.0\u202fms in 16; the dearest');
});
