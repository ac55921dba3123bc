import { slotState } from '@/core/playback/slots';
import { smallIntra, smallLongGop } from '@/demo/smallClips';
import { runTrial, smallClip } from '../testing/testTrial';
import { runTimeline, streamsOf, testMedia } from '../testing/testTimelineRun';

test.each([
  ['past', /^(direct|evicted)$/],
  ['through', /^evicted$/],
] as const)(
  'with several reads under way, %s the cache, a clip shows its own pictures',
  async (cache, method) => {
    const run = await runTrial(await smallClip(smallIntra), {
      settings: { underWay: 5, cache, scale: 'quarter', policy: 'every-frame', slotLimit: 96 },
    });
    expect(run.end.kind).toBe('done');
    expect(run.conditions?.cold.method).toMatch(method);
    expect(run.conditions?.cold.residentAtStart ?? 0).toBeLessThan(0.01);
    expect(run.findings?.frameCode).toBe(true);
    expect([...run.trace.state].every((state) => state === slotState.shown)).toBe(true);
  },
);

test('streams of a timeline read side by side, each with several requests under way, also eight times backwards', async () => {
  const source = streamsOf(await testMedia(await smallClip(smallLongGop)), 2);
  for (const course of [{}, { speed: -8 }]) {
    const run = await runTimeline(source, course, { underWay: 3, scale: 'quarter', policy: 'every-frame' });
    expect(run.end.kind).toBe('done');
    expect(run.findings?.frameCode).toBe(true);
    expect([...run.trace.state].every((state) => state === slotState.shown)).toBe(true);
  }
});
