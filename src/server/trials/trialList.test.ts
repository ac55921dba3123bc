import { csvParse } from 'd3-dsv';
import { GET } from '@/app/api/trials/route';
import type { ClipWithVolume } from '@/db/queries/clips';
import { saveRig } from '@/db/queries/rigs';
import { saveAnnotation } from '@/db/queries/results';
import { updateTrial } from '@/db/queries/trials';
import type { LoadSummary } from '@/core/rig/load';
import type { TrialChange } from '@/db/kinds';
import { smallIntra } from '@/demo/smallClips';
import { readRigIdentity } from '@/engine/rig';
import { listInput, readListPart, readTrialList, type ListQuery, type TrialListPage } from './trialList';
import { readCompareChoices } from '../decide/compareChoices';
import { startTrials } from '../kinds/trialStart';
import { offContract } from '../testing/contract';
import { emptyVolume, newId, onTestDatabase, scannedClip, storedTrial } from '../testing/testDatabase';

onTestDatabase();

const rigElsewhere = newId('rig');
/** By a name for each what a list tells apart. */
const ids: Record<string, string> = {};
let clip: ClipWithVolume;
let target: string;

const quiet: LoadSummary = { othersMean: 0.01, trialMean: 0.5, othersPeak: 0.02, peakMemoryBytes: null };
const played = (grade: string, dropped: number) =>
  ({
    slots: 100,
    shown: 100 - dropped,
    late: 0,
    dropped,
    wrong: 0,
    grade,
    timesRealTime: null,
    pacingMs: null,
    achievedRate: 25,
    serviceMs: { read: 1, decode: 2, process: 3 },
    attribution: null,
  }) as unknown as TrialChange['summary'];
const minute = (number: number) => new Date(Date.UTC(2026, 2, 1, 18, number));

beforeAll(async () => {
  clip = await scannedClip(smallIntra);
  target = (await emptyVolume()).id;
  await saveRig(rigElsewhere, await readRigIdentity(), 'Boathouse');
  ids.solid = await storedTrial(clip, { createdAt: minute(1) });
  ids.rough = await storedTrial(clip, { createdAt: minute(2) });
  ids.waiting = await storedTrial(clip, { createdAt: minute(3) });
  ids.failed = await storedTrial(clip, { createdAt: minute(4) });
  ids.elsewhere = await storedTrial(clip, {
    createdAt: minute(5),
    rigId: rigElsewhere,
    origin: 'imported',
    simulated: true,
    status: 'done',
  });
  ids.check = await storedTrial(clip, { kind: 'self-check', createdAt: minute(6) });
  const [copy] = await startTrials({
    kind: 'copy',
    volumeId: clip.volumeId,
    folder: '',
    destinations: [{ volumeId: target, folder: '=card' }],
  });
  ids.copy = copy;
  const end = async (id: string, change: TrialChange) =>
    updateTrial(id, ['queued'], { status: 'done', endedAt: new Date(), load: quiet, ...change });
  await end(ids.solid, { summary: played('solid', 0) });
  await end(ids.rough, {
    summary: played('rough', 5),
    load: { ...quiet, othersMean: 0.4 },
  });
  await end(ids.failed, { status: 'failed', outcome: 'The volume went away.' });
  await saveAnnotation(ids.rough, '', 'the cable was loose');
});

const idsOf = ({ trials }: TrialListPage) => trials.map(({ id }) => id);
const listed = async (query: ListQuery) => idsOf(await readTrialList(query));
const of = (...names: string[]) => names.map((name) => ids[name]);

test('all kinds of all rigs stand in one list, newest first, each with what it found', async () => {
  const page = await readTrialList({});
  expect(idsOf(page)).toEqual(of('copy', 'check', 'elsewhere', 'failed', 'waiting', 'rough', 'solid'));
  expect(page).toMatchObject({ total: 7, page: 1, size: 50 });
  expect(offContract(page, 'TrialsAnswer')).toEqual([]);
  const [copy, , elsewhere, failed, waiting, rough, solid] = page.trials;
  expect(copy).toMatchObject({
    kind: 'copy',
    name: 'Shuttle SSD',
    how: expect.stringMatching(/^to Card /) as string,
    status: 'queued',
    answer: null,
  });
  expect(copy?.volumes).toHaveLength(2);
  expect(elsewhere).toMatchObject({
    rig: { id: rigElsewhere, name: 'Boathouse' },
    origin: 'imported',
    simulated: true,
  });
  expect(failed).toMatchObject({
    answer: 'The volume went away.',
    grade: null,
    href: `/trials/${ids.failed}`,
  });
  expect(waiting).toMatchObject({ status: 'queued', answer: null, values: {}, doubt: null, excluded: null });
  expect(rough).toMatchObject({
    grade: 'rough',
    doubt: { word: 'disturbed' },
    excluded: 'the cable was loose',
    values: { dropped: 5 },
  });
  expect(solid).toMatchObject({ grade: 'solid', how: 'quarter scale', doubt: null });
  expect(solid?.answer).toMatch(/100/);
});

test.each<[ListQuery, string[]]>([
  [{ kind: 'copy' }, ['copy']],
  [{ kind: 'self-check,copy' }, ['copy', 'check']],
  [{ status: 'queued' }, ['copy', 'check', 'waiting']],
  [{ grade: 'rough' }, ['rough']],
  [{ grade: 'solid,rough' }, ['rough', 'solid']],
  [{ doubt: 'yes' }, ['rough']],
  [{ doubt: 'no', status: 'done' }, ['elsewhere', 'solid']],
  [{ rig: rigElsewhere }, ['elsewhere']],
  [{ since: minute(4).toISOString() }, ['copy', 'check', 'elsewhere', 'failed']],
  [{ until: minute(2).toISOString() }, ['solid']],
  [{ since: minute(2).toISOString(), until: minute(4).toISOString() }, ['waiting', 'rough']],
  [{ subject: 'shuttle' }, ['copy']],
  [{ subject: '%' }, []],
  [{ subject: '_' }, ['check', 'elsewhere', 'failed', 'waiting', 'rough', 'solid']],
  [{ subject: "' or true --" }, []],
  [{ rig: 'none' }, []],
])('%j narrows the list to %j', async (query, names) => {
  expect(await listed(query)).toEqual(of(...names));
  expect((await readTrialList(query)).total).toBe(names.length);
});

test('a volume’s list has what was read from it and what was written to it, a clip’s what was tried with it', async () => {
  expect(await listed({ volume: target })).toEqual(of('copy'));
  expect(await listed({ volume: clip.volumeId })).toHaveLength(7);
  expect(await listed({ clip: clip.id, kind: 'playback', status: 'failed' })).toEqual(of('failed'));
  expect(await listed({ clip: clip.id })).not.toContain(ids.copy);
});

test('pages follow each other without a gap, and the last one stands for those beyond', async () => {
  const whole = await listed({});
  const pages = await Promise.all(['1', '2', '3'].map((page) => readTrialList({ page, size: '3' })));
  expect(pages.flatMap(idsOf)).toEqual(whole);
  expect(pages.map(({ trials }) => trials.length)).toEqual([3, 3, 1]);
  const beyond = await readTrialList({ page: '9', size: '3' });
  expect(beyond.page).toBe(3);
  expect(idsOf(beyond)).toEqual(whole.slice(6));
});

test.each<[string, string]>([
  ['kind', 'weather'],
  ['status', 'asleep'],
  ['grade', 'solid,nice'],
  ['doubt', 'perhaps'],
  ['since', 'yesterday'],
  ['page', '0'],
  ['page', 'x'],
  ['size', '501'],
  ['subject', 'x'.repeat(201)],
])('%s=%s is refused with the word at fault', async (word, value) => {
  const answer = await GET(new Request(`http://localhost/api/trials?${word}=${value}`));
  expect(answer.status).toBe(400);
  const body = (await answer.json()) as { message: string; field: string };
  expect(offContract(body, 'Refused')).toEqual([]);
  const { message, field } = body;
  expect(field.startsWith(word)).toBe(true);
  expect(message).not.toMatch(/must|invalid|transform/i);
});

test('the same list as CSV has all its pages, and no text that a spreadsheet would compute', async () => {
  const answer = await GET(new Request('http://localhost/api/trials?format=csv&size=2'));
  expect(answer.headers.get('content-type')).toContain('text/csv');
  const lines = csvParse(await answer.text());
  expect(lines.map(({ id }) => id)).toEqual(await listed({}));
  const rough = lines.find(({ id }) => id === ids.rough);
  expect(rough).toMatchObject({
    kind: 'Playback',
    grade: 'rough',
    'left out': 'the cable was loose',
    'Dropped slots (%)': '5',
  });
  expect(rough?.['in doubt']).toContain('other processes took 40\u202f%');
  for (const line of lines) for (const cell of Object.values(line)) expect(cell).not.toMatch(/^[=+@]/);
  const formula = await storedTrial(clip, {
    createdAt: minute(0),
    subject: { clipPath: '=HYPERLINK("x").mov', volumeName: '@home', format: clip.format! } as never,
  });
  const [last] = csvParse(
    await (
      await GET(new Request('http://localhost/api/trials?format=csv&status=queued&subject=hyper'))
    ).text(),
  );
  expect(last).toMatchObject({ id: formula, subject: `'=HYPERLINK("x").mov`, volumes: `'@home` });
});

test('a result whose subject has no name is listed all the same', async () => {
  const id = await storedTrial(clip, { createdAt: minute(-1), subject: {} as never });
  const line = (await readTrialList({ until: minute(0).toISOString() })).trials[0];
  expect(line).toMatchObject({ id, name: 'Playback', volumes: [] });
});

test('a part of a page begins with what its address asks for, as far as it means something', async () => {
  const part = await readListPart({ kind: 'playback' }, { grade: 'rough' });
  expect(idsOf(part.first)).toEqual(of('rough'));
  expect(part.choices.rigs.map(({ name }) => name)).toEqual(expect.arrayContaining(['Slipway', 'Boathouse']));
  expect(part.choices.volumes.map(({ id }) => id)).toEqual(expect.arrayContaining([target, clip.volumeId]));
  const careless = await readListPart({ kind: 'copy' }, { page: 'zwei', grade: 'rough' });
  expect([careless.asked, idsOf(careless.first)]).toEqual([{}, of('copy')]);
  expect((await listInput.validate({ kind: '' })).kind).toBeUndefined();
});

test('what can be compared are results of all kinds and rigs; a self-check is none', async () => {
  const choices = await readCompareChoices();
  expect(choices.map(({ token }) => token)).toEqual(of('elsewhere', 'rough', 'solid').map((id) => `t.${id}`));
  expect(choices.every(({ kind }) => kind === 'playback')).toBe(true);
  expect(choices[0]).toMatchObject({ rig: 'Boathouse', simulated: true, volume: 'Shuttle SSD' });
});
