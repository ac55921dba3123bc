import { readdir } from 'node:fs/promises';
import type { ClipWithVolume } from '@/db/queries/clips';
import { smallIntra } from '@/demo/smallClips';
import { smallClip } from '@/engine/testing/testTrial';
import { recordCsv } from './recordCsv';
import { readTrialPage } from '../trials/trialPage';
import { requireTrial } from '../platform/trialQueue';
import { startTrials } from './trialStart';
import { emptyVolume, measureTrial, onTestDatabase, scannedClip } from '../testing/testDatabase';

onTestDatabase();

let clip: ClipWithVolume;
beforeAll(async () => {
  await smallClip(smallIntra);
  clip = await scannedClip(smallIntra);
});

const soaked = (id: string) => requireTrial(id, ['soak']);
const start = async (minutes: number, work: object) => {
  const [id] = await startTrials({ kind: 'soak', minutes, work });
  return id;
};

test('a clip is played again and again for as long as was asked, to the slot', async () => {
  // Its ten seconds, round and round: 15 s are one pass of two rounds, and what is left of one.
  const id = await start(0.25, { kind: 'playback', clipId: clip.id, scale: 'quarter' });
  await measureTrial(id);
  const { status, outcome, summary, record, subject, settings } = await soaked(id);
  expect({ status, outcome }).toEqual({
    status: 'done',
    outcome: expect.stringMatching(
      // How long it took besides is the machine's; that it was long enough is asked below.
      /^Played (once|2 times) in \d+(\.\d)?.s: .* of \d+ slots dropped\. /,
    ) as string,
  });
  expect(subject.timeline.course.slots).toBe(480);
  expect(settings.work).toMatchObject({ kind: 'playback', settings: { scale: 'quarter' } });
  expect(summary!.seconds).toBeGreaterThanOrEqual(15);
  expect(summary!.frames).toBeGreaterThanOrEqual(15 * 24);
  expect(summary!.workedS).toBeCloseTo(summary!.frames / 24, 6);
  expect(summary!.needed).toBe(24);
  expect(record!.points.length).toBeGreaterThanOrEqual(2);
  for (const { seconds, framesPerSecond } of record!.points) {
    expect(seconds).toBeCloseTo(5, 6);
    expect(framesPerSecond).toBeGreaterThan(0);
  }
  expect(summary!.firstPeakBytes).toBeGreaterThan(10e6);
  // The load of the rig is one row of samples over all passes.
  const { samples } = await readTrialPage(id);
  expect(samples.length).toBeGreaterThan(20);
  const { csv } = await recordCsv(id);
  expect(csv.split('\n')[0]).toBe('atS,seconds,framesPerSecond,dropped');
});

test('a task is made again and again, each time from the beginning, and nothing of it stays', async () => {
  const volume = await emptyVolume();
  const id = await start(0.1, {
    kind: 'export',
    clipId: clip.id,
    to: 48,
    codec: 'mjpeg',
    picture: '8-bit 4:2:2',
    control: 'quality',
    quality: 5,
    targetVolumeId: volume.id,
    keep: true,
  });
  await measureTrial(id);
  const { status, summary, record, settings } = await soaked(id);
  expect(status).toBe('done');
  expect(settings.work.settings).toMatchObject({ keep: false, likeness: false });
  expect(summary!.done).toBeGreaterThan(1);
  expect(summary).toMatchObject({ frames: 48 * summary!.done, unproved: 0, needed: null, dropped: 0 });
  expect(record!.points.length).toBeGreaterThanOrEqual(summary!.done - 1);
  expect(summary!.workedS).toBeLessThan(summary!.seconds);
  expect(await readdir(volume.folder)).toEqual([]);
});

test('what cannot be repeated is refused with the field at fault', async () => {
  const { id: targetVolumeId } = await emptyVolume();
  const export_ = {
    kind: 'export',
    clipId: clip.id,
    codec: 'h264',
    picture: '9-bit',
    control: 'quality',
    targetVolumeId,
  };
  await expect(start(0.01, { kind: 'playback', clipId: clip.id, scale: 'half' })).rejects.toMatchObject({
    field: 'minutes',
  });
  await expect(start(1, { kind: 'copy' })).rejects.toMatchObject({ field: 'work' });
  await expect(start(1, [])).rejects.toMatchObject({ field: 'work' });
  await expect(start(1, export_)).rejects.toMatchObject({ field: 'picture' });
  await expect(start(1, { kind: 'playback', scale: 'half' })).rejects.toMatchObject({ field: 'clipId' });
});

test('a soak that is cancelled keeps what was measured', async () => {
  const id = await start(60, { kind: 'playback', clipId: clip.id, scale: 'quarter' });
  await measureTrial(id, (run) => {
    const timer = setInterval(() => {
      void soaked(id).then(({ progress }) => {
        if (progress === null) return;
        clearInterval(timer);
        run.cancel();
      });
    }, 200);
  });
  const { status, summary } = await soaked(id);
  expect(status).toBe('cancelled');
  expect(summary!.frames).toBeGreaterThanOrEqual(5 * 24);
  expect(summary!.done).toBe(0);
});
