import { decodeTraceView } from '@/core/playback/traceView';
import { holdStage, steadyWork, traceOf } from '@/core/playback/testing/made';
import { soundState } from '@/core/playback/sound';
import { encodeTrace, type Trace } from '@/core/playback/trace';
import { intraGraph, type Work } from '@/core/playback/work';
import { getCharges, getTrial, updateTrial } from '@/db/queries/trials';
import { removeVolume } from '@/db/queries/volumes';
import { saveClip, type ClipWithVolume } from '@/db/queries/clips';
import { demoClips } from '@/demo/clips';
import { smallIntra, smallTenBit } from '@/demo/smallClips';
import { closeTrial } from '../runner/trialRun';
import { traceCsv } from '../trials/traceCsv';
import { loadTrace, storeTraceBatch } from '../trials/traces';
import { cancelTrial, deleteTrial } from '../kinds/trialControls';
import { readTrialPage } from '../trials/trialPage';
import { traceViewOf } from './playedTrials';
import { newId, scannedClip, storedTrial, onTestDatabase } from '../testing/testDatabase';
import { startPlayback } from '../kinds/playback';
import { selfCheckSlots, startSelfCheck } from '../kinds/selfCheck';

onTestDatabase();

let clip: ClipWithVolume;
beforeAll(async () => {
  clip = await scannedClip(smallTenBit);
});

const playback = {
  scale: 'half',
  policy: 'hold-time',
  threads: 0,
  warm: false,
  depth: 'kept',
  fields: 'woven',
  meanwhile: 'nothing',
  sound: 'on',
  decodeOn: [] as never[],
  cache: 'past' as const,
  underWay: 1,
} as const;

/** A run with time to spare, but for slot 20, whose processing was held until its slot had passed. */
function madeTrace(slots: number): Trace {
  const work: Work = {
    ...steadyWork(intraGraph(slots), { read: 2_000, decode: 9_000, process: 4_000 }),
    slotUs: 1e6 / 24,
  };
  holdStage(work, 'process', 20, 1);
  const trace = traceOf(work);
  trace.sound.fill(soundState.ready);
  trace.soundReadUs.fill(800);
  trace.soundDecodeUs.fill(70);
  trace.soundMixUs.fill(310);
  trace.soundBytes.fill(3_840);
  trace.sound[7] = soundState.underRun;
  for (const column of [trace.soundReadUs, trace.soundDecodeUs, trace.soundMixUs]) column[7] = -1;
  trace.soundBytes[7] = 0;
  trace.shownFrame.set(Array.from({ length: slots }, (_, slot) => (slot === 20 ? -1 : slot)));
  return trace;
}

async function storedRun(slots: number, pieces: readonly (readonly [number, number])[]): Promise<string> {
  const id = await storedTrial(clip, { status: 'running' });
  const trace = madeTrace(slots);
  for (const [from, to] of pieces) await storeTraceBatch(id, from, to - from, encodeTrace(trace, from, to));
  return id;
}

test('a playback trial is queued with all its conditions', async () => {
  const id = await startPlayback({ clipId: clip.id, ...playback });
  expect(await getTrial(id)).toMatchObject({
    status: 'queued',
    kind: 'playback',
    progress: { slotCount: smallTenBit.frames },
    settings: { scale: 'half', policy: 'hold-time', processing: true },
    subject: {
      clipPath: clip.path,
      volumeName: 'Shuttle SSD',
      contentHash: clip.contentHash,
      frames: smallTenBit.frames,
    },
  });
  await expect(deleteTrial(id)).rejects.toThrow('Cancel the trial first');
  await cancelTrial(id);
  expect(await getTrial(id)).toMatchObject({ status: 'cancelled', outcome: 'Cancelled before it began.' });
  await expect(cancelTrial(id)).rejects.toThrow('has already ended');
  await deleteTrial(id);
  await expect(readTrialPage(id)).rejects.toMatchObject({ status: 404 });
});

test('a clip that cannot be played is refused with its problem', async () => {
  const id = newId('clip');
  await saveClip(
    {
      id,
      volumeId: clip.volumeId,
      path: 'broken.mov',
      sizeBytes: 1,
      modifiedAt: new Date(),
      status: 'unplayable',
      problem: 'Cut short: the last 4 frames are missing.',
    },
    null,
  );
  await expect(startPlayback({ clipId: id, ...playback })).rejects.toMatchObject({
    status: 409,
    field: 'clipId',
    message: 'Cut short: the last 4 frames are missing.',
  });
  await expect(startPlayback({ clipId: 'clip-none', ...playback })).rejects.toMatchObject({ status: 404 });
});

test('cancelling a running trial leaves its end to the runner', async () => {
  const id = await storedTrial(clip, { status: 'running' });
  await cancelTrial(id);
  expect((await getTrial(id))!.status).toBe('running');
});

test('the demo has a light intra clip that is long enough for the self-check', () => {
  expect(
    demoClips.some(
      ({ keyInterval, frames, picture }) =>
        keyInterval === null && frames >= selfCheckSlots && picture.width <= 1280,
    ),
  ).toBe(true);
});

test('a self-check needs an intra clip that is long enough, and one is enough at a time', async () => {
  await scannedClip(smallIntra);
  const id = await startSelfCheck();
  const row = (await getTrial(id, ['self-check']))!;
  expect(row).toMatchObject({
    progress: { slotCount: 180 },
    subject: { structure: { intra: true } },
  });
  expect(row.settings.faults.map(({ stage }) => stage)).toEqual([
    'read',
    'read',
    'decode',
    'decode',
    'process',
    'process',
  ]);
  await expect(startSelfCheck()).rejects.toThrow('already running');
  await cancelTrial(id);
});

test('a trace comes back as it was saved, up to the first missing piece', async () => {
  const whole = await loadTrace(
    await storedRun(48, [
      [24, 48],
      [0, 24],
    ]),
  );
  expect(whole.length).toBe(48);
  expect([...whole.presentedAt]).toEqual([...madeTrace(48).presentedAt]);
  expect(
    (
      await loadTrace(
        await storedRun(48, [
          [0, 10],
          [20, 48],
        ]),
      )
    ).length,
  ).toBe(10);
  expect((await loadTrace(await storedTrial(clip))).length).toBe(0);
});

test('an ended trial gets its summary, charges and view from what was saved', async () => {
  const id = await storedRun(48, [[0, 48]]);
  const row = (await getTrial(id))!;
  expect(
    await closeTrial(
      row,
      { kind: 'done' },
      { trialMean: 0.4, othersMean: 0.02, othersPeak: 0.1, peakMemoryBytes: 1e8 },
    ),
  ).toBe(true);
  const ended = (await getTrial(id))!;
  expect(ended).toMatchObject({
    status: 'done',
    summary: {
      slots: 48,
      shown: 47,
      dropped: 1,
      firstDropSlot: 20,
      longestGapSlots: 1,
      grade: 'rough',
      attribution: { countByCharge: { 4: 1 }, agreement: 1 },
    },
  });
  const charges = (await getCharges(id))!;
  expect([...charges].flatMap((charge, slot) => (charge ? [[slot, charge]] : []))).toEqual([[20, 4]]);
  expect(await closeTrial(row, { kind: 'failed', message: 'later', detail: '' }, null)).toBe(false); // an end is final

  const bytes = await traceViewOf(id);
  const view = decodeTraceView(
    bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer,
  );
  expect(view.slots).toBe(48);
  expect(view.charge[20]).toBe(4);
  expect(view.decodeMs[10]).toBeCloseTo(9, 1);

  const lines = (await traceCsv(id)).trim().split('\n');
  expect(lines).toHaveLength(49);
  expect(lines[0]).toMatch(
    /^slot,timecode,state,cause,given_up_at,shown_frame,bytes,readStart_us.*,ready_depth,doubtful,sound,sound_read_us,sound_decode_us,sound_mix_us,sound_bytes$/,
  );
  expect(lines[21]).toMatch(/^20,03:00:00:20,dropped,process,,-1,100000,/);
  expect(lines[1]).toMatch(/^0,03:00:00:00,shown,,,0,100000,/);
  expect(lines[1]).toMatch(/,ready,800,70,310,3840$/);
  // Given up before it was begun: there are no times.
  expect(lines[8]).toMatch(/,under-run,,,,0$/);
});

test('a trial that was cut off keeps the summary of what it saved, and says how much that was', async () => {
  const id = await storedRun(48, [[0, 30]]);
  await closeTrial(
    (await getTrial(id))!,
    { kind: 'crashed', message: 'The trial process ended unexpectedly (signal SIGKILL).' },
    null,
  );
  expect(await getTrial(id)).toMatchObject({
    status: 'crashed',
    outcome: 'The trial process ended unexpectedly (signal SIGKILL). 30 of 48 slots were saved.',
    summary: { slots: 30, dropped: 1 },
  });
  const empty = await storedTrial(clip, { status: 'running' });
  await closeTrial(
    (await getTrial(empty))!,
    { kind: 'hung', message: 'No frame moved for 15 s.', detail: 'node T do_signal_stop' },
    null,
  );
  expect(await getTrial(empty)).toMatchObject({
    status: 'hung',
    outcome: 'No frame moved for 15 s.',
    summary: null,
  });
});

test('a result can be drawn after its volume was removed', async () => {
  const other = await scannedClip(smallIntra);
  const id = await storedTrial(other, { status: 'running' });
  await storeTraceBatch(id, 0, 48, encodeTrace(madeTrace(48)));
  await closeTrial((await getTrial(id))!, { kind: 'done' }, null);
  await removeVolume(other.volumeId);
  expect((await getTrial(id))!.clipId).toBeNull();
  expect((await traceViewOf(id)).byteLength).toBeGreaterThan(48);
  expect(await updateTrial(id, ['queued'], { outcome: 'no' })).toBe(false);
});
