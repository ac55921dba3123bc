import { smallIntra, smallTenBit } from '@/demo/smallClips';
import { thisRigId } from '@/engine/rig';
import { emptyVolume, onTestDatabase, scannedClip } from '@/server/testing/testDatabase';
import {
  clipsForGrouping,
  clipsWithoutPreview,
  getClip,
  getClips,
  getPreview,
  listClipsOfFootage,
  previewOfContent,
  savePreview,
  updateClips,
} from './clips';
import { removeDemoData } from './demo';
import { getFootage, listFootage, saveGroups } from './footage';
import {
  countRenditionItems,
  findMadeRendition,
  listRenditionItems,
  updateRenditionItem,
} from './renditions';
import { cancelQueued, getTrial, listTrialIds, listTrials, updateTrial } from './trials';
import { decodeRateInput } from '@/core/kinds/decodeRate';
import { renditionInput } from '@/core/kinds/renditions';
import { startDecodeRates } from '@/server/kinds/decodeRate';
import { startRenditions } from '@/server/kinds/renditions';

onTestDatabase();

const strip = {
  strip: Buffer.from([0xff, 0xd8]),
  tiles: 12,
  tileWidth: 160,
  tileHeight: 90,
  stripMs: 5,
  audioMs: 0,
  peaks: null,
  fingerprint: Buffer.alloc(96, 1),
  problem: null,
};

test('a preview belongs to a content: a changed clip asks for another, a twin takes the one there is', async () => {
  const clip = await scannedClip(smallTenBit);
  const rigId = await thisRigId();
  const waiting = async () => (await clipsWithoutPreview(rigId, 100)).map(({ id }) => id);
  expect(await waiting()).toContain(clip.id);
  await savePreview({ clipId: clip.id, contentHash: clip.contentHash!, ...strip });
  expect(await waiting()).not.toContain(clip.id);
  expect(await getPreview(clip.id)).toMatchObject({ tiles: 12, strip: strip.strip });
  expect((await previewOfContent(clip.contentHash!))!.clipId).toBe(clip.id);
  await updateClips([clip.id], { contentHash: 'another' });
  expect(await waiting()).toContain(clip.id);
  await savePreview({ clipId: clip.id, contentHash: 'another', ...strip, strip: null, problem: 'damaged' });
  expect(await waiting()).not.toContain(clip.id); // it is not tried again and again
  expect(await previewOfContent('another')).toBeNull();
});

test('groups are made, kept by hand, and go with their last clip', async () => {
  const clip = await scannedClip(smallIntra);
  const rigId = await thisRigId();
  await saveGroups(rigId, [{ footageId: 'f-one', name: 'One', joining: [clip.id] }]);
  expect(await getFootage('f-one')).toMatchObject({ name: 'One', byHand: false });
  expect((await listClipsOfFootage('f-one')).map(({ id }) => id)).toEqual([clip.id]);
  await saveGroups(rigId, [{ footageId: 'f-one', name: 'Renamed', joining: [clip.id] }], true);
  expect(await getFootage('f-one')).toMatchObject({ name: 'One', byHand: true });
  expect((await getClip(clip.id))!.footageHand).toBe('grouped');
  expect((await clipsForGrouping(rigId)).find(({ id }) => id === clip.id)).toMatchObject({
    footageId: 'f-one',
    footageHand: 'grouped',
  });
  await saveGroups(rigId, [{ footageId: 'f-two', name: 'Two', joining: [clip.id] }]);
  expect((await listFootage(rigId)).map(({ id }) => id)).not.toContain('f-one');
});

test('clips are found by id, and ids that are gone are left out', async () => {
  const clip = await scannedClip(smallTenBit);
  expect((await getClips([clip.id, 'gone'])).map(({ id }) => id)).toEqual([clip.id]);
  expect(await getClip('gone')).toBeNull();
});

test('decode trials change only from the status they have, and wait in the order they were asked for', async () => {
  const clip = await scannedClip(smallTenBit);
  const rigId = await thisRigId();
  const ids = await startDecodeRates(await decodeRateInput.validate({ clipIds: [clip.id, clip.id] }));
  expect((await listTrialIds({ rigId, statuses: ['queued'] })).map(({ id }) => id)).toEqual(
    expect.arrayContaining(ids),
  );
  expect(await updateTrial(ids[0]!, ['running'], { status: 'done' })).toBe(false);
  expect(await updateTrial(ids[0]!, ['queued'], { status: 'running' })).toBe(true);
  expect(await cancelQueued(rigId, ['decode-rate'])).toEqual([ids[1]]); // the one that runs goes on
  expect(await listTrials({ rigId, kinds: ['decode-support'] })).toEqual([]);
  expect(await listTrials({ rigId, kinds: ['decode-rate'], clipIds: [clip.id] })).toHaveLength(2);
  expect(Object.keys((await listTrials({ rigId, kinds: ['decode-rate'] }))[0]!)).not.toContain('record'); // lists stay light
});

test('a rendition counts as made only while its clip is there and whole', async () => {
  const clip = await scannedClip(smallTenBit);
  const { id: volumeId } = await emptyVolume();
  const job = await startRenditions(
    await renditionInput.validate({ clipIds: [clip.id], presetId: 'mjpeg', volumeId }),
  );
  const [item] = await listRenditionItems(job);
  const made = () => findMadeRendition(clip.contentHash!, item!.settingsKey);
  expect(await made()).toBeNull();
  await updateRenditionItem(item!.id, { status: 'made', outputClipId: clip.id });
  expect(await made()).toMatchObject({ clipId: clip.id });
  expect(await findMadeRendition(clip.contentHash!, 'other settings')).toBeNull();
  await updateClips([clip.id], { status: 'missing' });
  expect(await made()).toBeNull();
  expect((await countRenditionItems([job])).get(job)).toEqual({ items: 1, made: 1, present: 0, failed: 0 });
  expect(await updateTrial(job, ['running'], { status: 'done' })).toBe(false);
});

test('reset takes the demo’s decode trials, batches and groups, and leaves a person’s own', async () => {
  const rigId = await thisRigId();
  const [demo, own] = [await scannedClip(smallTenBit, 1), await scannedClip(smallIntra)];
  const [demoTrial, ownTrial] = await startDecodeRates(
    await decodeRateInput.validate({ clipIds: [demo.id, own.id] }),
  );
  const into = await emptyVolume(1);
  const demoJob = await startRenditions(
    await renditionInput.validate({ clipIds: [demo.id], presetId: 'mjpeg', volumeId: into.id }),
  );
  const ownJob = await startRenditions(
    await renditionInput.validate({ clipIds: [own.id], presetId: 'mjpeg', volumeId: own.volumeId }),
  );
  await saveGroups(rigId, [
    { footageId: 'f-demo', name: 'Demo', joining: [demo.id] },
    { footageId: 'f-own', name: 'Own', joining: [own.id] },
  ]);
  await removeDemoData();
  expect(await getTrial(demoTrial!)).toBeNull();
  expect(await getTrial(ownTrial!)).not.toBeNull();
  expect(await getTrial(demoJob)).toBeNull();
  expect(await getTrial(ownJob)).not.toBeNull();
  const left = (await listFootage(rigId)).map(({ id }) => id);
  expect(left).toContain('f-own');
  expect(left).not.toContain('f-demo');
});
