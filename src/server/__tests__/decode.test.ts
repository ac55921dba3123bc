import { join } from 'node:path';
import { saveDevices } from '@/db/queries/rigs';
import { updateDecodeTrial } from '@/db/queries/decodeTrials';
import { smallIntra, smallTenBit } from '@/demo/smallClips';
import { workFolder } from '@/engine/__tests__/testTrial';
import { standInDevices } from '@/core/decode/standIns';
import { listDevices } from '@/engine/decode/devices';
import { thisRigId } from '@/engine/rig';
import {
  cancelDecodeTrial,
  cancelWaitingDecodeTrials,
  deleteDecodeTrial,
  readDecodePage,
  readSupportPage,
  requireDecodeTrial,
  startDecodeRates,
  startDecodeStreams,
  startDecodeSupport,
} from '../decode';
import { closeDecodeTrial, DecodeTrialRun } from '../runner/decodeTrialRun';
import { decodeRateInput, decodeStreamsInput, decodeSupportInput } from '../validation';
import { onTestDatabase, scannedClip } from './testDatabase';

onTestDatabase();

async function run(id: string): Promise<void> {
  await new DecodeTrialRun(id, {
    processPath: join(await workFolder(), 'build', 'decode.mjs'),
    watchdogMs: 20_000,
    onTrialPid: () => undefined,
  }).run();
}

const rates = (clipIds: string[]) => decodeRateInput.validate({ clipIds, passSeconds: 0.2, passes: 1 });

test('a decode rate is measured on one core and on all, and streams count by it', async () => {
  const clip = await scannedClip(smallIntra);
  const [id] = await startDecodeRates(await rates([clip.id]));
  await run(id!);
  const trial = await requireDecodeTrial(id!);
  expect(trial).toMatchObject({
    status: 'done',
    result: { kind: 'rate', one: { threads: 1 }, memoryBytes: expect.any(Number) as number },
  });
  expect(trial.outcome).toMatch(
    /^Decodes [\d.]+ frames\/s on all cores, [\d.]+ on one: [\d.]+x its own rate of 24\.$/,
  );
  expect(trial.record!.passes.map(({ cores }) => cores)).toEqual(['one', 'all']);

  const streams = await startDecodeStreams(
    await decodeStreamsInput.validate({ clipId: clip.id, scale: 'quarter', seconds: 1, mostStreams: 2 }),
  );
  await run(streams);
  expect(await requireDecodeTrial(streams)).toMatchObject({
    status: 'done',
    result: { kind: 'streams', arithmetic: { framesPerSecond: expect.any(Number) as number } },
  });
  expect((await readDecodePage()).trials).toHaveLength(2);
});

test('the matrix offers what is unknown, runs it once, and shows its verdicts', async () => {
  await saveDevices(await thisRigId(), await listDevices());
  const clip = await scannedClip(smallTenBit);
  // The stand-ins are everywhere; what else there is depends on the machine.
  const standInCells = async () => {
    const { cells } = (await readSupportPage()).rows.find(({ formatClass }) =>
      formatClass.startsWith('ProRes'),
    )!;
    return standInDevices.map(({ id }) => cells.find(({ deviceId }) => deviceId === id)!);
  };
  expect((await standInCells()).map(({ trial }) => trial)).toEqual([null, null]);
  const input = await decodeSupportInput.validate({ passSeconds: 0.2, mostPairs: 3 });
  const first = await startDecodeSupport(input);
  expect(first.length).toBeGreaterThanOrEqual(2);
  expect(await startDecodeSupport(input)).toEqual([]); // all are under way
  const of = await Promise.all(first.map(requireDecodeTrial));
  for (const trial of of.filter(({ formatClass }) => formatClass.startsWith('ProRes'))) await run(trial.id);
  const [neap, spring] = await standInCells();
  expect(neap!.trial).toMatchObject({ onDevice: 0, pairs: 3 });
  expect(spring!.trial).toMatchObject({ onDevice: 1, pairs: 3 });
  await expect(
    startDecodeSupport(await decodeSupportInput.validate({ clipIds: [clip.id], deviceIds: ['device-none'] })),
  ).rejects.toThrow('cannot be used here');
  await cancelWaitingDecodeTrials();
  expect((await readSupportPage()).waiting).toBe(0);
});

test('waiting trials are cancelled, orphans closed, and what cannot be tried refused', async () => {
  const clip = await scannedClip(smallIntra);
  const [id] = await startDecodeRates(await rates([clip.id]));
  await cancelDecodeTrial(id!);
  expect(await requireDecodeTrial(id!)).toMatchObject({ status: 'cancelled' });
  await expect(cancelDecodeTrial(id!)).rejects.toMatchObject({ status: 409 });
  const [orphan] = await startDecodeRates(await rates([clip.id]));
  await expect(deleteDecodeTrial(orphan!)).rejects.toThrow('Cancel the trial first');
  await updateDecodeTrial(orphan!, ['queued'], { status: 'running' });
  await closeDecodeTrial(
    await requireDecodeTrial(orphan!),
    { kind: 'interrupted', message: 'The runner stopped while this trial ran.' },
    null,
  );
  expect(await requireDecodeTrial(orphan!)).toMatchObject({ status: 'interrupted', result: null });
  await deleteDecodeTrial(orphan!);
  await expect(requireDecodeTrial(orphan!)).rejects.toMatchObject({ status: 404 });
  await expect(startDecodeRates(await rates(['gone']))).rejects.toMatchObject({ status: 404 });
  await expect(rates([])).rejects.toThrow('Choose at least one clip.');
});
