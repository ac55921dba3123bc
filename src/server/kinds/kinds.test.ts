import { asExported, most, sampleTrial } from '@/core/formats/testing/bundleSamples';
import {
  isOneOf,
  kindNames,
  namesOf,
  taskKinds,
  trialHref,
  type TrialKind,
  trialKinds,
  whatOf,
} from '@/core/kinds/kinds';
import { gzipSync } from 'node:zlib';
import { emptyBlocks, encodeBlocks } from '@/core/storage/blocks';
import { standInDevices } from '@/core/decode/standIns';
import type { ClipWithVolume } from '@/db/queries/clips';
import { saveDevices } from '@/db/queries/rigs';
import { listRenditionItems } from '@/db/queries/renditions';
import { listBlockBatches, listCopyFiles, saveBlockBatch, saveCopyFile } from '@/db/queries/storageRecords';
import { getTrial, listSamples, saveRecord, saveSample, updateTrial } from '@/db/queries/trials';
import type { TrialRow } from '@/db/kinds';
import { smallIntra } from '@/demo/smallClips';
import { smallClip } from '@/engine/testing/testTrial';
import { thisRigId } from '@/engine/rig';
import { annotate } from '../trials/annotations';
import { exportBundle } from '../exchange/exportBundle';
import { importBundle } from '../exchange/importBundle';
import { headlines } from '../trials/findings';
import { removePlan, listPlanCells } from '@/db/queries/plans';
import { startSeries } from '../decide/plans';
import { recordCsv } from './recordCsv';
import { closeOrphan } from '../runner/trialRun';
import { readTrialPage } from '../trials/trialPage';
import { cancelTrial } from './trialControls';
import { startTrials } from './trialStart';
import { offContract } from '../testing/contract';
import { saveHashList } from '@/db/queries/storageRecords';
import { askedOfEach, heldList } from '../testing/askedOfEach';
import { emptyVolume, onTestDatabase, scannedClip } from '../testing/testDatabase';

onTestDatabase();

let clip: ClipWithVolume;
let target: string;
/** One waiting trial of each kind, asked for as a page or a script does. */
const asked = new Map<TrialKind, string>();

const bodies = () => askedOfEach(clip, target);

beforeAll(async () => {
  await smallClip(smallIntra);
  clip = await scannedClip(smallIntra);
  target = (await emptyVolume()).id;
  await saveDevices(await thisRigId(), [
    ...standInDevices.map(({ id, name, about }) => ({ id, name, about, simulated: true, usable: true })),
  ]);
  await saveHashList(heldList);
  for (const kind of trialKinds) {
    const [id, ...more] = await startTrials({ kind, ...bodies()[kind] });
    expect(more).toEqual([]);
    asked.set(kind, id);
  }
});

test.each(trialKinds)(
  '%s is asked for by its kind, waits under its name, and knows its volumes',
  async (kind) => {
    const trial = (await getTrial(asked.get(kind)!))!;
    expect(trial).toMatchObject({ kind, status: 'queued', rigId: await thisRigId(), origin: 'measured' });
    expect(trial.volumeIds).toContain(isOneOf(['throughput', 'renditions'], kind) ? target : clip.volumeId);
    if (isOneOf(['copy', ...taskKinds], kind)) expect(trial.volumeIds).toEqual([clip.volumeId, target]);
    expect(trial.simulated).toBe(kind === 'decode-support');
    expect(namesOf(trial).volumes.length).toBeGreaterThan(0);
    expect(whatOf(trial).startsWith(kindNames[kind])).toBe(true);
    expect(trialHref(trial)).toMatch(new RegExp(`/${trial.id}$`));
    const page = await readTrialPage(trial.id);
    expect(page.trial.id).toBe(trial.id);
    expect(offContract(page, 'TrialAnswer')).toEqual([]);
    const settings = {
      ...trial.settings,
      kind: 'weather',
      scale: 7,
      test: null,
      lanes: 'many',
      folder: 1,
      codec: 2,
      intermediate: 3,
      work: 'rest',
      minutes: 'long',
    };
    expect(offContract({ ...page, trial: { ...trial, settings } }, 'TrialAnswer')).not.toEqual([]);
    // Nothing is recorded yet: no line, and no word that is none.
    const { csv } = await recordCsv(trial.id);
    expect(csv).not.toMatch(/undefined|NaN|\[object/);
  },
);

test.each(trialKinds)('%s whose runner died is closed with why, and keeps its conditions', async (kind) => {
  const [id] = await startTrials({
    kind: kind === 'self-check' ? 'playback' : kind,
    ...bodies()[kind === 'self-check' ? 'playback' : kind],
  });
  const made = sampleTrial(kind, 'made', most).conditions;
  const conditions = { ...made, softwareVersion: '0.1' } as unknown as TrialRow['conditions'];
  await updateTrial(id, ['queued'], { status: 'running', conditions });
  await closeOrphan(id);
  const trial = (await getTrial(id))!;
  expect(trial.status).toBe('interrupted');
  expect(trial.outcome).toMatch(kind === 'renditions' ? /^0 of 1 made/ : /^The runner stopped while this/);
  expect(trial.conditions).toMatchObject({ softwareVersion: '0.1' });
  expect((await headlines([id])).get(id)?.text).toBe(trial.outcome);
});

test.each(trialKinds.filter((kind) => !isOneOf(['self-check', 'copy', 'renditions'], kind)))(
  '%s is repeated as a series of its own kind',
  async (kind) => {
    const id = asked.get(kind)!;
    const plan = await startSeries({ trialId: id, repeats: 2, mostMadeUp: 0 });
    const [cell] = await listPlanCells(plan);
    const { settings, volumeIds } = (await getTrial(id))!;
    expect(cell).toMatchObject({ address: { test: kind }, template: { kind, settings, volumeIds } });
    await removePlan(plan);
  },
);

const requests = gzipSync(encodeBlocks(emptyBlocks(2)));

test('a trial of any kind goes out with all that was recorded of it, and comes in whole as another rig’s', async () => {
  const id = (kind: TrialKind) => asked.get(kind)!;
  for (const kind of trialKinds) {
    await updateTrial(id(kind), ['queued'], { status: 'done', endedAt: new Date() });
    const at = new Date(5);
    await saveSample({ trialId: id(kind), at, trialLoad: 0.5, othersLoad: 0.1, freeMemoryBytes: 7e9 });
    await annotate(id(kind), { note: `of ${kind}`, excluded: null });
  }
  await saveBlockBatch(id('throughput'), 0, 2, requests);
  await saveRecord(id('streams-carried'), { streams: [1, 2] });
  await saveCopyFile(id('copy'), {
    path: 'a.mov',
    bytes: 10,
    modifiedMs: 5,
    outcome: 'copied',
    xxh64: 'ab',
    hashedMs: 6,
    problem: null,
  });
  const { bundle } = await exportBundle(await thisRigId());
  const text = asExported({
    ...bundle,
    rig: { ...bundle.rig, id: 'rig-else', name: 'Quoin' },
    trials: bundle.trials.map((one) => ({ ...one, id: `x${one.id}` })),
  });
  expect(await importBundle(text)).toMatchObject({ trials: { added: bundle.trials.length, known: 0 } });
  for (const kind of trialKinds) {
    const [own, twin] = await Promise.all([readTrialPage(id(kind)), readTrialPage(`x${id(kind)}`)]);
    expect(twin.trial).toMatchObject({
      kind,
      rigId: 'rig-else',
      origin: 'imported',
      clipId: null,
      simulated: own.trial.simulated,
      volumeIds: own.trial.volumeIds.map((volumeId) => `rig-else:${volumeId}`),
      createdAt: own.trial.createdAt,
    });
    expect(twin.annotation).toEqual(own.annotation);
    expect(twin.samples.map(({ at }) => at.getTime())).toEqual([5]);
    expect(twin.rig).toMatchObject({ name: 'Quoin', imported: { simulated: false } });
  }
  expect((await listBlockBatches(`x${id('throughput')}`)).map(({ data }) => data)).toEqual([requests]);
  expect((await getTrial(`x${id('streams-carried')}`))?.record).toEqual({ streams: [1, 2] });
  expect(await listCopyFiles(`x${id('copy')}`)).toEqual(await listCopyFiles(id('copy')));
  expect(await listRenditionItems(`x${id('renditions')}`)).toMatchObject([
    { sourcePath: clip.path, sourceClipId: null, status: 'waiting' },
  ]);
  // Where it would go on another rig is not a place here.
  const copy = (await getTrial(`x${id('copy')}`, ['copy']))!;
  expect(copy.settings.destinations.map(({ volumeId }) => volumeId)).toEqual([`rig-else:${target}`]);
  expect((await listSamples(`x${id('copy')}`)).length).toBe(1);
});

test('what is asked for wrongly is refused with the field, and nothing waits', async () => {
  await expect(startTrials(null)).rejects.toMatchObject({ status: 400, field: 'kind' });
  await expect(startTrials({ kind: 'toString' })).rejects.toMatchObject({ field: 'kind' });
  await expect(startTrials({ kind: 'decode-rate', clipIds: [] })).rejects.toMatchObject({ field: 'clipIds' });
  const [id] = await startTrials({ kind: 'playback', ...bodies().playback });
  await cancelTrial(id);
});
