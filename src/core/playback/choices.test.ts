import fc from 'fast-check';
import { findCures, type Cure, type RigChoices } from './cures';
import { cureSentence } from '../sentences/playback';
import { simulate } from './simulate';
import { intraGraph, type Work } from './work';
import { longGopGraph, slotUs, steadyWork } from './testing/made';

const slots = 400;
const bytes = new Float64Array(slots).fill(1e6);

function curesOf(work: Work, choices: RigChoices): Cure[] {
  return findCures({ work, decisions: simulate(work).decisions }, bytes, {
    scale: 'full',
    scaleCosts: null,
    choices,
  });
}

const none: RigChoices = { proxies: null, devices: [] };

test('proxies are named with what they remove, and only where they do', () => {
  const slow = steadyWork(intraGraph(slots), { read: 10_000, decode: 1.5 * slotUs, process: 5_000 });
  const dropped = simulate(slow).droppedCount;
  const proxies = { clipId: 'p1', read: 0.1, decode: 0.3 };
  expect(curesOf(slow, { ...none, proxies })[0]).toMatchObject({
    kind: 'proxies',
    clipId: 'p1',
    removes: dropped,
    of: dropped,
  });
  expect(curesOf(slow, none).some(({ kind }) => kind === 'proxies')).toBe(false);
  // Of a run that processing holds back they cure nothing.
  const processed = steadyWork(intraGraph(slots), { read: 10_000, decode: 5_000, process: 1.5 * slotUs });
  expect(curesOf(processed, { ...none, proxies }).some(({ kind }) => kind === 'proxies')).toBe(false);
});

test('a device is named by its name and what was measured of it; of several the fastest', () => {
  const slow = steadyWork(longGopGraph(34, 12), { read: 2_000, decode: 1.3 * slotUs, process: 5_000 });
  const [cure] = findCures(
    { work: slow, decisions: simulate(slow).decisions },
    new Float64Array(408).fill(1e6),
    {
      scale: 'full',
      scaleCosts: null,
      choices: {
        ...none,
        devices: [
          { deviceId: 'd', name: 'Block one', times: 1.05 },
          { deviceId: 'd', name: 'Block two (simulated)', times: 3.6 },
        ],
      },
    },
  );
  expect(cure).toMatchObject({ kind: 'device', name: 'Block two (simulated)', times: 3.6 });
  expect(cureSentence(cure as Cure)).toMatch(
    /^Decoding on Block two \(simulated\), measured to be 3\.60x as fast, would have removed all \d+ drops \(solid\)\.$/,
  );
});

test('whatever proxies and devices promise, a run with them keeps', () => {
  const spec = fc.record({
    read: fc.double({ min: 0.05, max: 1.4, noNaN: true }),
    decode: fc.double({ min: 0.05, max: 1.6, noNaN: true }),
    lighter: fc.double({ min: 0.05, max: 0.9, noNaN: true }),
    times: fc.double({ min: 1.1, max: 6, noNaN: true }),
  });
  fc.assert(
    fc.property(spec, ({ read, decode, lighter, times }) => {
      const work = steadyWork(intraGraph(slots), {
        read: read * slotUs,
        decode: decode * slotUs,
        process: 0.4 * slotUs,
      });
      const cures = curesOf(work, {
        proxies: { clipId: null, read: lighter, decode: lighter },
        devices: [{ deviceId: 'd', name: 'Block', times }],
      });
      for (const cure of cures) {
        if (cure.kind !== 'proxies' && cure.kind !== 'device') continue;
        const scaled = (column: Float64Array, ratio: number) => column.map((us) => us * ratio);
        const then = simulate(
          cure.kind === 'device'
            ? { ...work, decode: scaled(work.decode, 1 / times) }
            : { ...work, read: scaled(work.read, lighter), decode: scaled(work.decode, lighter) },
        );
        expect(cure.of - then.droppedCount).toBeGreaterThanOrEqual(cure.removes);
      }
    }),
    { numRuns: 20, seed: 15 },
  );
});
