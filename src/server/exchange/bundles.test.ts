import { gzipSync } from 'node:zlib';
import { parseBundle } from '@/core/formats/bundle';
import {
  least,
  most,
  sampleBundle,
  sampleLook,
  samplePlan,
  sampleRig,
  sampleTimeline,
  sampleTrial,
  sha256,
  wild,
} from '@/core/formats/testing/bundleSamples';
import { trialKinds } from '@/core/kinds/kinds';
import { packedTraceBytes } from '@/core/playback/trace';
import { keptText } from '@/db/testing/keptText';
import { connection } from '@/db/client';
import { getRig, saveRig } from '@/db/queries/rigs';
import { getTimeline, getVersion, keepVersion } from '@/db/queries/timelines';
import { getTrial } from '@/db/queries/trials';
import { actOnPlan, readPlanPage, repeatPlan } from '../decide/plans';
import { lookText } from '../timelines/looks';
import { thisRigId, readRigIdentity } from '@/engine/rig';
import { exportBundle } from './exportBundle';
import { forgetRig, importBundle } from './importBundle';
import { compareSides } from '../decide/comparisons';
import { headlines } from '../trials/findings';
import { recordCsv } from '../kinds/recordCsv';
import { loadTrace } from '../trials/traces';
import { readTrialList, trialListCsv } from '../trials/trialList';
import { readTrialPage } from '../trials/trialPage';
import { onTestDatabase } from '../testing/testDatabase';

onTestDatabase();

const take = (trials: readonly unknown[], change: object = {}) =>
  importBundle(JSON.stringify(sampleBundle(trials, change)));
const slots = (count: number) => Buffer.alloc(packedTraceBytes(count)[0]!);
const piece = (from: number, count: number, data = gzipSync(slots(count))) => ({
  fromSlot: from,
  slots: count,
  data: data.toString('base64'),
});
const played = (id: string, change: object = {}) => sampleTrial('playback', id, most, change);

const kept = () => keptText(connection().pool);

test('a bundle changes nothing that is there: no trial, trace, note, rig or volume', async () => {
  const first = played('held', {
    recorded: { traces: [piece(0, 2)] },
    annotation: { note: 'ours', excluded: null },
  });
  expect(await take([first])).toMatchObject({
    trials: { added: 1, known: 0 },
    rigName: 'Quoin',
    simulated: true,
  });
  const before = await kept();
  const again = {
    ...first,
    status: 'failed',
    summary: null,
    annotation: { note: 'theirs', excluded: 'no' },
    recorded: { traces: [piece(0, 2), piece(2, 3)], samples: [], charges: [{ charges: 'AQ==' }] },
  };
  const other = { id: 'v', name: 'Another', kind: 'card', price: 9 };
  const asMeasured = { id: 'r1', name: 'Bollard', identity: await readRigIdentity(), simulated: false };
  expect(await take([again], { rig: asMeasured, volumes: [other] })).toMatchObject({
    trials: { added: 0, known: 1 },
  });
  expect(await kept()).toBe(before);
  // What is said to be measured now is of a rig whose results a model computed.
  await take([played('later', { simulated: false })], { rig: asMeasured });
  expect(await getTrial('later')).toMatchObject({ simulated: true, rigId: 'r1', origin: 'imported' });
  expect((await getRig('r1'))?.name).toBe('Quoin');
});

test('a bundle of a rig that measured into this database adds its trials and makes no imported rig of it', async () => {
  await saveRig('rig-before', await readRigIdentity(), 'Boathouse');
  const rig = sampleRig({ id: 'rig-before', simulated: false });
  await take([played('restored')], { rig });
  expect(await getRig('rig-before')).toMatchObject({ name: 'Boathouse', imported: null });
  expect(await getTrial('restored')).toMatchObject({ rigId: 'rig-before', origin: 'measured' });
  await expect(forgetRig('rig-before')).rejects.toMatchObject({ status: 404 });
  expect(await getTrial('restored')).not.toBeNull();
});

test('fields of the database’s own mean nothing in a bundle', async () => {
  const own = {
    rigId: 'r9',
    demo: 1,
    origin: 'measured',
    planId: 'p',
    name: 'other',
    grade: 'solid',
    doubt: 'disturbed',
  };
  const rig = sampleRig({ id: 'rig-own' });
  await take([sampleTrial('copy', 'own-fields', least, own)], { rig });
  expect(await getTrial('own-fields')).toMatchObject({
    rigId: 'rig-own',
    demo: 0,
    origin: 'imported',
    planId: null,
  });
  const { trials } = await readTrialList({ rig: 'rig-own' });
  expect(trials).toMatchObject([{ grade: null, doubt: null }]);
  expect(trials[0]?.name).not.toBe('other');
});

test.each([
  ['more than it says', piece(0, 1, gzipSync(slots(2)))],
  ['less than it says', piece(0, 3, gzipSync(slots(2)))],
  ['three hundred times as much as it takes', piece(0, 4, gzipSync(Buffer.alloc(3e8)))],
  ['nothing', piece(0, 1, Buffer.from('no gzip'))],
])('a trace that unpacks to %s is refused with its place, and nothing is kept', async (_, wrong) => {
  const before = await kept();
  const memory = process.memoryUsage().arrayBuffers;
  await expect(
    take([played('fine'), played('packed', { recorded: { traces: [piece(0, 1), wrong] } })]),
  ).rejects.toMatchObject({
    status: 400,
    message: expect.stringMatching(/^trials\[1\]\.recorded\.traces\[1\]\.data/) as string,
  });
  expect(process.memoryUsage().arrayBuffers - memory).toBeLessThan(1e8);
  expect(await kept()).toBe(before);
});

test('a trace comes in and goes out as it was, and requests of a volume as well', async () => {
  const blocks = { fromBlock: 0, blocks: 2, data: gzipSync(Buffer.alloc(78)).toString('base64') };
  await take([played('traced', { recorded: { traces: [piece(0, 2), piece(2, 1)] } })]);
  await expect(
    take([sampleTrial('throughput', 'blocked', most, { recorded: { blocks: [blocks] } })]),
  ).resolves.toMatchObject({ trials: { added: 1 } });
  expect((await loadTrace('traced')).length).toBe(3);
  const { bundle } = await exportBundle('r1');
  expect(bundle.trials.find(({ id }) => id === 'traced')?.recorded?.traces).toHaveLength(2);
});

test.each(trialKinds)(
  '%s of whatever a bundle may hold has its page, its lines and its place in lists',
  async (kind) => {
    const choices = [least, most, ...Array.from({ length: 12 }, (_, seed) => wild(seed + 1))];
    const trials = choices.map((choice, index) =>
      sampleTrial(kind, `${kind}-${index}`, choice, { status: index % 3 === 2 ? 'failed' : 'done' }),
    );
    const rig = sampleRig({ id: await thisRigId() });
    expect(await take(trials, { rig })).toMatchObject({ trials: { added: trials.length } });
    for (const { id } of trials) {
      expect((await readTrialPage(id)).trial.id).toBe(id);
      expect((await recordCsv(id)).csv).not.toBe('');
    }
    const ids = trials.map(({ id }) => id);
    expect((await headlines(ids)).size).toBe(ids.length);
    expect((await readTrialList({ kind, size: '500' })).trials.length).toBeGreaterThanOrEqual(ids.length);
    let csv = '';
    for await (const part of await trialListCsv({ kind })) csv += part;
    expect(csv).not.toMatch(/undefined|\[object/);
    const compared = await compareSides(ids.map((id) => `t.${id}`).slice(0, 4), null);
    expect(compared.sides.length).toBeGreaterThan(0);
  },
);

const withTimelines = (change: object = {}, trials: readonly unknown[] = []) =>
  sampleBundle(trials, {
    rig: sampleRig({ id: 'rig-tidewrack', name: 'Bollard', simulated: false }),
    looks: [sampleLook('look-evening')],
    timelines: [sampleTimeline('reel-two', 'look-evening')],
    plans: [samplePlan('plan-volumes', most, ['planned'])],
    ...change,
  });
const playedReel = (id: string, version = 1) => {
  const trial = sampleTrial('playback', id, most, { planId: 'plan-volumes', planCell: 0 });
  const subject = trial.subject as { timeline: object };
  return { ...trial, subject: { ...subject, timeline: { ...subject.timeline, id: 'reel-two', version } } };
};

test('timelines, looks, series and matrices come in with their trials, once, and go out again as they were', async () => {
  const bundle = withTimelines({}, [playedReel('planned')]);
  const before = await kept();
  const told = await importBundle(JSON.stringify(bundle), { store: false });
  expect(await kept()).toBe(before);
  expect(told).toMatchObject({
    stored: false,
    proved: true,
    version: 3,
    trials: { added: 1, known: 0 },
    timelines: { added: 1, known: 0 },
    plans: { added: 1, known: 0 },
    looks: { added: 1, known: 0 },
    notes: ['1 medium of its timelines is not in this library. Add the volumes that hold them and relink.'],
  });
  expect(await importBundle(JSON.stringify(bundle))).toEqual({ ...told, stored: true });
  const after = await kept();
  expect(await importBundle(JSON.stringify(bundle))).toMatchObject({
    trials: { added: 0, known: 1 },
    timelines: { added: 0, known: 1 },
    plans: { added: 0, known: 1 },
    looks: { added: 0, known: 1 },
    notes: [],
  });
  expect(await kept()).toBe(after);
  // It can be edited and played here; what it was linked to there are no clips of ours.
  const timeline = await getTimeline('reel-two');
  expect(timeline).toMatchObject({ rigId: await thisRigId(), name: 'Tidewrack, reel two', slots: 96 });
  expect(Object.values(timeline!.document.media).map(({ clipId }) => clipId)).toEqual([null]);
  expect((await lookText('look-evening')).name).toBe('Harbour evening');
  const plan = await readPlanPage('plan-volumes');
  expect([plan.plan.imported, plan.from, plan.steps[0]?.headline?.text]).toEqual([
    true,
    'Bollard',
    expect.anything(),
  ]);
  await expect(repeatPlan('plan-volumes')).rejects.toMatchObject({ status: 409 });
  await expect(
    actOnPlan('plan-volumes', { action: 'repeat-failed', position: null, cell: null }),
  ).rejects.toMatchObject({ status: 409 });
  expect(await getTrial('planned')).toMatchObject({ planId: 'plan-volumes', planCell: 0 });
  // What goes out of it is what came in, but for the links.
  const { bundle: out } = await exportBundle('rig-tidewrack');
  const again = parseBundle(JSON.stringify(out), sha256);
  const first = parseBundle(JSON.stringify(bundle), sha256);
  expect(again.plans).toEqual(first.plans.map((one) => ({ ...one, steps: expect.anything() as unknown })));
  expect(again.looks).toEqual(first.looks);
  expect(again.volumes.map(({ id }) => id)).toEqual(['v']);
  expect(again.timelines[0]?.versions).toHaveLength(1);
  await forgetRig('rig-tidewrack');
  await expect(readPlanPage('plan-volumes')).rejects.toMatchObject({ status: 404 });
  expect(await getTimeline('reel-two')).not.toBeNull();
});

test('a version that is another one here gets a number of its own, and its trials know it', async () => {
  await importBundle(JSON.stringify(withTimelines()));
  // Here it was edited and played since; there as well, otherwise.
  const [sample] = [sampleTimeline('reel-two', 'look-evening')];
  const named = (name: string) => ({ ...sample.document, name });
  expect(await keepVersion('reel-two', named('as cut here'), null)).toBe(2);
  const versions = [
    ...sample.versions!,
    { number: 2, name: null, document: named('as cut there'), createdAt: sample.createdAt },
    { number: 3, name: null, document: named('as cut here'), createdAt: sample.createdAt },
  ];
  const trials = [playedReel('of-1', 1), playedReel('of-2', 2), playedReel('of-3', 3)];
  await importBundle(
    JSON.stringify(withTimelines({ timelines: [{ ...sample, versions }], plans: [] }, trials)),
  );
  const versionOf = async (id: string) => {
    const { timeline } = (await getTrial(id))!.subject as { timeline: { version: number } };
    return [timeline.version, (await getVersion('reel-two', timeline.version))?.document.name];
  };
  expect(await versionOf('of-1')).toEqual([1, sample.name]);
  expect(await versionOf('of-2')).toEqual([3, 'as cut there']);
  expect(await versionOf('of-3')).toEqual([2, 'as cut here']);
});

test('a look that is no table, or a hash that is another, keeps nothing', async () => {
  const before = await kept();
  await expect(
    importBundle(
      JSON.stringify(
        withTimelines({ looks: [{ id: 'look-new', name: 'Look', cube: 'LUT_1D_SIZE 2\n0 0' }] }),
      ),
    ),
  ).rejects.toMatchObject({
    status: 400,
    message: expect.stringMatching(/^looks\[0\]\.cube: Line 2/) as string,
  });
  const text = JSON.stringify(withTimelines({}, [playedReel('touched')])).replace(
    '07:12:40:00',
    '07:12:41:00',
  );
  await expect(importBundle(text)).rejects.toMatchObject({
    status: 400,
    message: expect.stringMatching(/^timelines\[0\] is not what was exported/) as string,
  });
  expect(await kept()).toBe(before);
});
