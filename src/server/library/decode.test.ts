import { saveDevices } from '@/db/queries/rigs';
import { updateTrial } from '@/db/queries/trials';
import { smallIntra, smallTenBit } from '@/demo/smallClips';
import { standInDevices } from '@/core/decode/standIns';
import { listDevices } from '@/engine/codec/devices';
import { thisRigId } from '@/engine/rig';
import { readDecodePage, readSupportPage } from './decode';
import { formatClass } from '@/core/media/format';
import { decodeKinds } from '@/core/kinds/kinds';
import { closeOrphan } from '../runner/trialRun';
import { cancelTrial, cancelWaiting, deleteTrial } from '../kinds/trialControls';
import { measureTrial, onTestDatabase, scannedClip } from '../testing/testDatabase';
import { decodeRateInput } from '@/core/kinds/decodeRate';
import { decodeSupportInput } from '@/core/kinds/decodeSupport';
import { decodeStreamsInput } from '@/core/kinds/decodeStreams';
import { requireTrial } from '../platform/trialQueue';
import { startDecodeRates } from '../kinds/decodeRate';
import { startDecodeSupport } from '../kinds/decodeSupport';
import { startDecodeStreams } from '../kinds/decodeStreams';

onTestDatabase();

const decodeTrial = (id: string) => requireTrial(id, decodeKinds);

const rates = (clipIds: string[]) => decodeRateInput.validate({ clipIds, passSeconds: 0.2, passes: 1 });

test('a decode rate is measured on one core and on all, and streams count by it', async () => {
  const clip = await scannedClip(smallIntra);
  const [id] = await startDecodeRates(await rates([clip.id]));
  await measureTrial(id!);
  const trial = await decodeTrial(id!);
  expect(trial).toMatchObject({
    status: 'done',
    summary: { kind: 'decode-rate', one: { threads: 1 }, memoryBytes: expect.any(Number) as number },
  });
  expect(trial.outcome).toMatch(
    /^Decodes [\d.]+\sframes\/s on all cores, [\d.]+ on one: [\d.]+x its own rate of 24\.$/,
  );
  expect(trial.record!.passes.map(({ cores }) => cores)).toEqual(['one', 'all']);

  const streams = await startDecodeStreams(
    await decodeStreamsInput.validate({ clipId: clip.id, scale: 'quarter', seconds: 1, mostStreams: 2 }),
  );
  await measureTrial(streams);
  expect(await decodeTrial(streams)).toMatchObject({
    status: 'done',
    summary: { kind: 'decode-streams', arithmetic: { framesPerSecond: expect.any(Number) as number } },
  });
  const page = await readDecodePage();
  expect([page.rates.length, page.waiting]).toEqual([1, 0]);
});

test('the matrix offers what is unknown, runs it once, and shows its verdicts', async () => {
  await saveDevices(await thisRigId(), await listDevices());
  const clip = await scannedClip(smallTenBit);
  // The stand-ins are everywhere; what else there is depends on the machine.
  const standInCells = async () => {
    const { cells } = (await readSupportPage()).rows.find((row) => row.formatClass.startsWith('ProRes'))!;
    return standInDevices.map(({ id }) => cells.find(({ deviceId }) => deviceId === id)!);
  };
  expect((await standInCells()).map(({ trial }) => trial)).toEqual([null, null]);
  const input = await decodeSupportInput.validate({ passSeconds: 0.2, mostPairs: 3 });
  const first = await startDecodeSupport(input);
  expect(first.length).toBeGreaterThanOrEqual(2);
  expect(await startDecodeSupport(input)).toEqual([]); // all are under way
  const of = await Promise.all(first.map((one) => decodeTrial(one)));
  for (const trial of of.filter(({ subject }) => formatClass(subject.format).startsWith('ProRes')))
    await measureTrial(trial.id);
  const [neap, spring] = await standInCells();
  expect(neap!.trial).toMatchObject({ onDevice: 0, pairs: 3 });
  expect(spring!.trial).toMatchObject({ onDevice: 1, pairs: 3 });
  await expect(
    startDecodeSupport(await decodeSupportInput.validate({ clipIds: [clip.id], deviceIds: ['device-none'] })),
  ).rejects.toThrow('cannot be used here');
  await cancelWaiting(decodeKinds);
  expect((await readSupportPage()).waiting).toBe(0);
});

test('waiting trials are cancelled, orphans closed, and what cannot be tried refused', async () => {
  const clip = await scannedClip(smallIntra);
  const [id] = await startDecodeRates(await rates([clip.id]));
  await cancelTrial(id!);
  expect(await decodeTrial(id!)).toMatchObject({ status: 'cancelled' });
  await expect(cancelTrial(id!)).rejects.toMatchObject({ status: 409 });
  const [orphan] = await startDecodeRates(await rates([clip.id]));
  await expect(deleteTrial(orphan!)).rejects.toThrow('Cancel the trial first');
  await updateTrial(orphan!, ['queued'], { status: 'running' });
  await closeOrphan(orphan!);
  expect(await decodeTrial(orphan!)).toMatchObject({ status: 'interrupted', summary: null });
  await deleteTrial(orphan!);
  await expect(decodeTrial(orphan!)).rejects.toMatchObject({ status: 404 });
  await expect(startDecodeRates(await rates(['gone']))).rejects.toMatchObject({ status: 404 });
  await expect(rates([])).rejects.toThrow('Choose at least one clip.');
});
