import { bytesPerSlot, dataRate } from '@/core/media/dataRate';
import { causeBit } from '@/core/playback/attribute';
import { smallIntra } from '@/demo/smallClips';
import { probeClip } from '../media/probe';
import { steadyModel } from '../testing/testStorage';
import { runTimeline, streamsOf, testMedia } from '../testing/testTimelineRun';
import { analyse, runTrial, smallClip } from '../testing/testTrial';

test('played from a stand-in that is too slow, a clip drops frames and reading is named', async () => {
  const path = await smallClip(smallIntra);
  const { packets, format } = await probeClip(path);
  const needs = dataRate(bytesPerSlot(packets), format.rate).meanBitsPerSecond / 8e6;
  const run = await runTrial(path, {
    settings: { processing: false },
    standIn: steadyModel(needs / 3, {
      drive: { ...steadyModel(1).drive, readBytesPerSecond: (needs * 1e6) / 3 },
    }),
  });
  expect(run.end.kind).toBe('done');
  const { summary } = analyse(run, { processing: false });
  expect(summary.dropped).toBeGreaterThan(40);
  const byRead = Object.entries(summary.attribution!.countByCharge)
    .filter(([charge]) => (Number(charge) & causeBit.read) !== 0)
    .reduce((sum, [, drops]) => sum + drops, 0);
  expect(byRead).toBeGreaterThan(summary.dropped / 2);
});

test('a stand-in that gives a read error ends the run as a real volume would, with the file and what to do', async () => {
  const path = await smallClip(smallIntra);
  const standIn = { ...steadyModel(50), fault: { kind: 'read-error' as const, atSeconds: 1 } };
  const played = await runTrial(path, { standIn });
  expect(played.trace.length).toBeGreaterThan(0);
  const timeline = await runTimeline(streamsOf(await testMedia(path, standIn)));
  for (const { end } of [played, timeline]) {
    expect(end.kind).toBe('failed');
    expect(end.kind === 'failed' && end.message).toBe(
      `${path} gave a read error from the device. Check the drive, cable or link, then try again.`,
    );
  }
});
