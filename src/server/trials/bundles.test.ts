import { gzipSync } from 'node:zlib';
import { least, most, sampleBundle, sampleTrial, wild } from '@/core/formats/testing/bundleSamples';
import { trialKinds } from '@/core/kinds/kinds';
import { packedTraceBytes } from '@/core/playback/trace';
import { keptText } from '@/db/testing/keptText';
import { connection } from '@/db/client';
import { getRig, saveRig } from '@/db/queries/rigs';
import { getTrial } from '@/db/queries/trials';
import { thisRigId, readRigIdentity } from '@/engine/rig';
import { forgetRig, exportBundle, importBundle } from './bundles';
import { compareSides } from '../decide/comparisons';
import { headlines } from './findings';
import { recordCsv } from '../kinds/recordCsv';
import { loadTrace } from './traces';
import { readTrialList, trialListCsv } from './trialList';
import { readTrialPage } from './trialPage';
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
  expect(await take([first])).toMatchObject({ added: 1, known: 0, rigName: 'Quoin', simulated: true });
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
  expect(await take([again], { rig: asMeasured, volumes: [other] })).toMatchObject({ added: 0, known: 1 });
  expect(await kept()).toBe(before);
  // What is said to be measured now is of a rig whose results a model computed.
  await take([played('later', { simulated: false })], { rig: asMeasured });
  expect(await getTrial('later')).toMatchObject({ simulated: true, rigId: 'r1', origin: 'imported' });
  expect((await getRig('r1'))?.name).toBe('Quoin');
});

test('a bundle of a rig that measured into this database adds its trials and makes no imported rig of it', async () => {
  await saveRig('rig-before', await readRigIdentity(), 'Boathouse');
  const rig = { ...sampleBundle([]).rig, id: 'rig-before', simulated: false };
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
  const rig = { ...sampleBundle([]).rig, id: 'rig-own' };
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
  ).resolves.toMatchObject({ added: 1 });
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
    const rig = { ...sampleBundle([]).rig, id: await thisRigId() };
    expect(await take(trials, { rig })).toMatchObject({ added: trials.length });
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
