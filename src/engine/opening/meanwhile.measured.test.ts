import { join } from 'node:path';
import { bytesPerSlot, dataRate } from '@/core/media/dataRate';
import type { PacketTable } from '@/core/media/packetTable';
import { causeBit } from '@/core/playback/attribute';
import { slotState } from '@/core/playback/slots';
import type { StorageModel } from '@/core/storage/model';
import { Pacer, pacerState, pacerStateBytes } from '@/core/storage/pacer';
import type { Rational } from '@/core/time/rational';
import { smallIntra } from '@/demo/smallClips';
import { probeClip } from '../media/probe';
import { richMedia, writeTestMedia } from '../testing/testMedia';
import { steadyModel } from '../testing/testStorage';
import { runTimeline, streamsOf, testMedia } from '../testing/testTimelineRun';
import { analyse, runTrial, smallClip, workFolder } from '../testing/testTrial';

test('thumbnails and sound peaks of all clips are drawn for as long as they play, and not after', async () => {
  const path = join(await workFolder(), 'meanwhile', 'sound.mov');
  await writeTestMedia(path, { ...richMedia, frames: 90 });
  const spec = streamsOf(await testMedia(path));
  const run = await runTimeline(spec, {}, { meanwhile: 'previews' });
  expect(run.end.kind).toBe('done');
  const { strips, sounds, clips, bytes, seconds, problem } = run.findings!.drawn!;
  expect(problem).toBeNull();
  expect(clips).toBeGreaterThan(1);
  expect(strips - clips).toBeLessThanOrEqual(1);
  expect(sounds - clips).toBeLessThanOrEqual(1);
  expect(Math.min(strips, sounds)).toBeGreaterThanOrEqual(clips);
  expect(bytes).toBeGreaterThan(0);
  // Three seconds of media, and what ends at the next picture.
  expect(seconds).toBeGreaterThan(2.9);
  expect(run.trace.state.includes(slotState.wrong)).toBe(false);
  const alone = await runTimeline(spec);
  expect(alone.findings!.drawn).toBeUndefined();
  const cores = (one: typeof run) => (one.end.kind === 'done' ? one.end.last.cpuUs / one.end.last.wallUs : 0);
  expect(cores(run)).toBeGreaterThan(cores(alone));
});

/** Slots whose bytes a stand-in brings too late by its own arithmetic, read one behind the other from the time of the first. */
function lateByModel(
  model: StorageModel,
  { size, slot }: Pick<PacketTable, 'size' | 'slot'>,
  rate: Rational,
): number {
  const addressBytes = size.reduce((sum, bytes) => sum + bytes, 0);
  const state = new ArrayBuffer(pacerStateBytes(model.drives, 1, addressBytes));
  const pacer = new Pacer(model, pacerState(state, model.drives, 1));
  let [now, address, late] = [0, 0, 0];
  size.forEach((bytes, row) => {
    now = Math.max(now, pacer.admit({ stream: 0, address, bytes, write: false }, now));
    address += bytes;
    if (now > ((slot[row]! + 1) * rate.den * 1e6) / rate.num) late++;
  });
  return late;
}

test('they share a stand-in’s link with what plays: a clip that it carries alone then drops, for reading', async () => {
  const path = await smallClip(smallIntra);
  const { packets, format } = await probeClip(path);
  const needs = dataRate(bytesPerSlot(packets), format.rate).meanBitsPerSecond / 8e6;
  const standIn = steadyModel(needs * 1.3);
  const settings = { processing: false } as const;
  // What else a machine does may hold a run up, and never the stand-in's arithmetic.
  expect(lateByModel(standIn, packets, format.rate)).toBe(0);
  expect(lateByModel(steadyModel(needs * 0.9), packets, format.rate)).toBeGreaterThan(100);
  const shared = await runTrial(path, { settings: { ...settings, meanwhile: 'previews' }, standIn });
  expect(shared.end.kind).toBe('done');
  const { summary } = analyse(shared, settings);
  expect(summary.dropped).toBeGreaterThan(20);
  const byRead = Object.entries(summary.attribution!.countByCharge)
    .filter(([charge]) => (Number(charge) & causeBit.read) !== 0)
    .reduce((sum, [, drops]) => sum + drops, 0);
  expect(byRead).toBeGreaterThan(summary.dropped / 2);
  // Both together get what the link gives, and no more.
  const { bytes, seconds } = shared.findings!.drawn!;
  const read = packets.size.reduce(
    (sum, size, row) => sum + (shared.trace.state[packets.slot[row]!] === slotState.dropped ? 0 : size),
    0,
  );
  // Slots are read ahead before the time begins.
  expect((bytes + read) / 1e6).toBeLessThan(needs * 1.3 * (seconds + 1));
});
