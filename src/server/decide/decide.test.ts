import { parseBundle } from '@/core/formats/bundle';
import { modelTrace } from '@/core/playback/modelTrace';
import { simulate } from '@/core/playback/simulate';
import { defaultBufferDepths } from '@/core/playback/slots';
import { summarise } from '@/core/playback/summary';
import { encodeTrace } from '@/core/playback/trace';
import { intraGraph, uniformWork } from '@/core/playback/work';
import { rational } from '@/core/time/rational';
import type { ClipWithVolume } from '@/db/queries/clips';
import { addPlan, removePlan, listPlanCells, listPlansByStatus } from '@/db/queries/plans';
import { getRig } from '@/db/queries/rigs';
import { addTrials, getTrial, removeTrial } from '@/db/queries/trials';
import { listVolumes } from '@/db/queries/volumes';
import { smallIntra } from '@/demo/smallClips';
import { thisRigId } from '@/engine/rig';
import { annotate } from '../trials/annotations';
import { changeBrief, createBrief, measureCells, readBriefForm, readBriefPage } from './briefs';
import { asExported, sha256 } from '@/core/formats/testing/bundleSamples';
import { exportBundle } from '../exchange/exportBundle';
import { forgetRig, importBundle } from '../exchange/importBundle';
import { compareSides } from './comparisons';
import { decodeTrial } from '../library/decode';
import { actOnPlan } from './plans';
import { readReport } from './report';
import { loadTrace, storeTraceBatch } from '../trials/traces';
import { briefInput } from '@/core/asked/briefs';
import { plainSettings } from '@/engine/testing/testTrial';
import { onTestDatabase, scannedClip, storedTrial } from '../testing/testDatabase';
import { requireTrial } from '../platform/trialQueue';

onTestDatabase();

let clip: ClipWithVolume;
beforeAll(async () => {
  clip = await scannedClip(smallIntra);
});

const rate = rational(24);

/** A finished run with its trace, by the model: decoding takes `decodeMs` a slot. */
async function finished(decodeMs: number, change: object = {}): Promise<string> {
  const work = uniformWork(intraGraph(48), rate, { read: 2_000, decode: decodeMs * 1_000, process: 1_000 });
  const trace = modelTrace(work, simulate(work), new Float64Array(48).fill(50_000));
  const { summary } = summarise({
    trace,
    graph: work.graph,
    rate,
    policy: 'hold-time',
    buffers: defaultBufferDepths,
    scale: 'full',
    scaleCosts: null,
  });
  const settings = {
    scale: 'full' as const,
    policy: 'hold-time' as const,
    threads: 0,
    warm: false,
    processing: true,
    buffers: defaultBufferDepths,
    slotLimit: null,
    faults: [],
  };
  const id = await storedTrial(clip, {
    status: 'done',
    settings,
    summary,
    progress: { slotCount: 48 },
    startedAt: new Date(),
    endedAt: new Date(),
    ...change,
  });
  await storeTraceBatch(id, 0, 48, encodeTrace(trace));
  return id;
}

const tokens = (ids: readonly string[]) => ids.map((id) => `t.${id}`);

test('a comparison names every difference, holds each side against the first, and leaves out what does not count', async () => {
  const slow = await finished(60);
  const fast = await finished(20, {
    settings: {
      scale: 'half',
      policy: 'hold-time',
      threads: 2,
      warm: false,
      processing: true,
      buffers: defaultBufferDepths,
      slotLimit: null,
      faults: [],
    },
  });
  const found = await compareSides(tokens([slow, fast]), 'Playback scale');
  expect(found.differences).toEqual([
    { condition: 'Playback scale', values: ['full', 'half'], asked: true, comesWith: null },
    { condition: 'Decoder threads', values: ['one per core', '2'], asked: false, comesWith: null },
  ]);
  const decode = found.rows.find(({ metric }) => metric.id === 'decodeTime');
  expect(decode?.against[1]?.ratio?.value).toBeCloseTo(3, 1);
  expect(decode?.against[1]?.verdict).toBe('too few repeats');
  expect(found.sides.map(({ name }) => name)).toEqual(['full', 'half']);
  expect(found.tests).toEqual(['playback']);
  const twin = await finished(60);
  const alike = await compareSides(tokens([slow, twin]), null);
  expect(alike.differences).toEqual([]);
  expect(alike.sides.map(({ name }) => name)).toEqual([
    expect.stringMatching(/\d\d:\d\d$/),
    expect.stringMatching(/\d\d:\d\d$/),
  ]);
  await annotate(fast, { note: '', excluded: 'the cable was loose' });
  expect(
    (await compareSides(tokens([slow, fast]), null)).rows.find(({ metric }) => metric.id === 'decodeTime')
      ?.against[1]?.verdict,
  ).toBe('not comparable');
  await annotate(fast, { note: '', excluded: null });
  await expect(compareSides(['t.gone'], null)).rejects.toMatchObject({ status: 404 });
  await expect(compareSides(['nonsense'], null)).rejects.toThrow('names neither');
  await expect(annotate('gone', { note: 'x', excluded: null })).rejects.toMatchObject({ status: 404 });
});

test('a matrix of clips by forms holds each proxy against its own original', async () => {
  const cell = (index: number, subject: string, form: 'originals' | 'proxies', what: string) => ({
    planId: 'forms',
    cell: index,
    expectedMs: 1,
    address: {
      test: 'playback' as const,
      subject: { kind: 'clip' as const, id: subject },
      volumeId: null,
      form,
      scale: 'full' as const,
    },
    labels: { what, volume: 'Shuttle SSD', simulated: false, form, scale: 'full', format: null },
    template: { kind: 'playback' as const, subject: {} as never, settings: {} as never },
  });
  const cells = [
    cell(0, 'clip-aaaa', 'originals', 'C0001.MP4'),
    cell(1, 'clip-aaaa', 'proxies', 'C0001_proxy.mov'),
    cell(2, 'clip-bbbb', 'originals', 'C0001.MP4'),
    cell(3, 'clip-bbbb', 'proxies', 'C0001_half.mov'),
  ];
  const trials = await Promise.all([20, 5, 30, 10].map((ms) => finished(ms)));
  await addPlan(
    {
      id: 'forms',
      rigId: await thisRigId(),
      name: 'Original or proxy?',
      question: 'original-or-proxy',
      settings: {} as never,
      status: 'done',
    },
    cells,
    trials.map((trialId, position) => ({
      planId: 'forms',
      position,
      cell: position,
      repeat: 0,
      status: 'done' as const,
      trialId,
    })),
  );
  const { sides, asked, differences: found, rows } = await compareSides(['p.forms'], null);
  expect(asked).toBe('Form');
  expect(sides.map(({ name }) => name)).toEqual([
    'originals, C0001.MP4 (aaaa)',
    'proxies, C0001.MP4 (aaaa)',
    'originals, C0001.MP4 (bbbb)',
    'proxies, C0001.MP4 (bbbb)',
  ]);
  expect(found.filter(({ comesWith }) => comesWith === null).map(({ condition }) => condition)).toEqual(
    expect.arrayContaining(['Form', 'Footage']),
  );
  const decoding = rows.find(({ metric }) => metric.id === 'decodeTime')!;
  expect(
    decoding.against.map(({ base, ratio }) => [base, ratio && Number(ratio.value.toPrecision(2))]),
  ).toEqual([
    [null, null],
    [0, 4],
    [null, null],
    [2, 3],
  ]);
  // The same matrix again, an hour later: each condition against itself before the change.
  await addPlan(
    {
      id: 'again',
      rigId: await thisRigId(),
      name: 'Original or proxy?',
      question: 'original-or-proxy',
      settings: {} as never,
      status: 'done',
      createdAt: new Date(Date.now() + 3_600_000),
    },
    cells.map((one) => ({ ...one, planId: 'again' })),
    trials.toReversed().map((trialId, position) => ({
      planId: 'again',
      position,
      cell: position,
      repeat: 0,
      status: 'done' as const,
      trialId,
    })),
  );
  const both = await compareSides(['p.forms', 'p.again'], null);
  expect(both.asked).toBe('Measured in');
  expect(both.rows[0]!.against.map(({ base }) => base)).toEqual([null, null, null, null, 0, 1, 2, 3]);
  expect(both.sides[4]!.name).toMatch(
    /^Original or proxy\? of .* \d\d:\d\d, originals, C0001\.MP4 \(aaaa\)$/,
  );
  await removePlan('again');
  await removePlan('forms');
  await Promise.all(trials.map(removeTrial));
});

test('results go out as a bundle and come in as another rig, once; a second import changes nothing', async () => {
  const id = await finished(10);
  await annotate(id, { note: 'a good run', excluded: null });
  const { bundle } = await exportBundle(await thisRigId());
  const text = asExported({
    ...bundle,
    rig: { ...bundle.rig, id: 'rig-else', name: 'Quoin' },
    trials: bundle.trials.map((trial) => ({ ...trial, id: `x${trial.id}` })),
  });
  const first = await importBundle(text);
  expect(first).toMatchObject({ rigName: 'Quoin', trials: { known: 0, added: bundle.trials.length } });
  expect(await importBundle(text)).toMatchObject({ trials: { added: 0, known: bundle.trials.length } });
  const twin = await getTrial(`x${id}`);
  expect(twin).toMatchObject({
    rigId: 'rig-else',
    clipId: null,
    status: 'done',
    summary: { dropped: 0, grade: 'solid' },
  });
  expect([...(await loadTrace(`x${id}`)).presentedAt]).toEqual([...(await loadTrace(id)).presentedAt]);
  expect((await listVolumes('rig-else')).map(({ name, id: volumeId }) => [name, volumeId])).toEqual([
    ['Shuttle SSD', `rig-else:${clip.volumeId}`],
  ]);
  expect(parseBundle(JSON.stringify((await exportBundle('rig-else')).bundle), sha256).trials).toHaveLength(
    bundle.trials.length,
  );
  const found = await compareSides(tokens([id, `x${id}`]), null);
  expect(found.asked).toBe('Rig');
  expect(found.sides[1]?.conditions.Rig).toBe('Quoin');
  await expect(importBundle('{"format":"else"}')).rejects.toMatchObject({ status: 400, field: 'file' });
  await expect(forgetRig(await thisRigId())).rejects.toMatchObject({ status: 409 });
  await forgetRig('rig-else');
  expect([await getRig('rig-else'), await getTrial(`x${id}`)]).toEqual([null, null]);
  expect((await requireTrial(id)).status).toBe('done');
});

const briefOf = async (change: object = {}) =>
  briefInput.validate({
    name: 'Harbour wall',
    question: 'Which?',
    cameras: [{ clipId: clip.id, name: 'Wall', hoursPerDay: 2 }],
    days: 5,
    places: [{ rigId: await thisRigId(), volumeId: clip.volumeId, price: 100 }],
    grade: 'workable',
    ...change,
  });

describe('a brief', () => {
  test('with nothing measured is unknown, and one press queues the run that fills it', async () => {
    const id = await createBrief(await briefOf({ scale: 'quarter' }));
    const { decision } = await readBriefPage(id);
    expect(
      decision.cells.map(({ judgement, cannot }) => [judgement.basis, judgement.missing, cannot]),
    ).toEqual([['unknown', ['volume', 'decoding'], null]]);
    expect(decision.sentence).toMatch(/No set-up is known to meet the brief yet/);
    expect(decision.withoutProxy).toEqual([{ name: expect.any(String) as string, clipId: clip.id }]);
    const plan = await measureCells(id, null);
    expect(
      (await listPlanCells(plan)).map(
        ({ template }) => template.kind === 'playback' && [template.clipId, template.settings.scale],
      ),
    ).toEqual([[clip.id, 'quarter']]);
    expect((await readBriefPage(id)).decision.cells[0]?.underWay).toBe(plan);
    await expect(measureCells(id, null)).rejects.toThrow('No cell of this rig is unknown');
    await actOnPlan(plan, { action: 'cancel', position: null, cell: null });
    expect(await listPlansByStatus(await thisRigId(), ['queued'])).toHaveLength(0);
  });

  test('tells of a cell whose newest run failed, until one comes to its end', async () => {
    const id = await createBrief(await briefOf({ scale: 'quarter' }));
    const cell = async () => (await readBriefPage(id)).decision.cells[0];
    expect((await cell())?.failed).toBeNull();
    await storedTrial(clip, {
      status: 'failed',
      outcome: 'The decoder failed.',
      createdAt: new Date(Date.now() - 3_000),
      settings: { ...plainSettings, scale: 'half' },
    });
    expect((await cell())?.failed).toBeNull(); // at another scale
    const failure = await storedTrial(clip, {
      status: 'failed',
      outcome: 'The decoder failed.',
      createdAt: new Date(Date.now() - 2_000),
    });
    expect(await cell()).toMatchObject({
      judgement: { basis: 'unknown' },
      failed: { trialId: failure, outcome: 'The decoder failed.' },
    });
    const ended = await finished(1, { settings: { ...plainSettings, scale: 'quarter' } });
    expect(await cell()).toMatchObject({ judgement: { basis: 'measured' }, failed: null });
    await removeTrial(ended);
    await removeTrial(failure);
  });

  test('measured runs of just its conditions stand in its map, those that do not count are left out', async () => {
    const id = await createBrief(await briefOf());
    const good = await finished(20);
    const bad = await finished(90);
    const cell = async () => (await readBriefPage(id)).decision.cells[0];
    expect((await cell())?.judgement).toMatchObject({
      basis: 'measured',
      grade: 'stalled',
      meets: false,
      cure: expect.stringMatching(/would have removed/) as string,
    });
    for (const run of (await cell())?.runs ?? [])
      if (run.trialId !== good) await annotate(run.trialId, { note: '', excluded: 'not this one' });
    expect((await cell())?.runs.map(({ trialId }) => trialId)).toEqual([good]);
    expect((await readBriefPage(id)).decision.setUps[0]).toMatchObject({
      meets: true,
      grade: 'solid',
      cost: 100,
      basis: 'measured',
      proxySecondsPerDay: 0,
    });
    expect((await readReport(id)).evidence.map(({ id: run }) => run)).toEqual([good]);
    expect(await requireTrial(bad)).toMatchObject({ status: 'done' });
    await changeBrief(id, await briefOf({ scale: 'half' }));
    expect((await cell())?.runs.length).toBeLessThanOrEqual(1);
  });

  test('several streams at once are a load of their own: runs of the single clip do not count for it', async () => {
    const id = await createBrief(await briefOf({ streams: 3, looks: 1 }));
    expect((await readBriefPage(id)).decision.cells[0]?.runs).toEqual([]);
    const plan = await measureCells(id, null);
    const [cell] = await listPlanCells(plan);
    expect(cell?.labels.what).toMatch(/3 streams of .* with 1 grade/);
    expect((await readBriefPage(id)).decision.cells[0]?.underWay).toBe(plan);
    await actOnPlan(plan, { action: 'cancel', position: null, cell: null });
  });

  test('a shuttle plays a timeline of the clip at its speed, and only runs at that speed count for it', async () => {
    const id = await createBrief(await briefOf({ speed: 4 }));
    const plan = await measureCells(id, null);
    const [cell] = await listPlanCells(plan);
    const row = cell?.template.kind === 'playback' ? cell.template : null;
    expect(row?.subject.timeline?.course).toMatchObject({ from: 0, speed: 4 });
    expect(row?.progress?.slotCount).toBe(Math.ceil(smallIntra.frames / 4));
    expect((await readBriefPage(id)).decision.cells[0]).toMatchObject({ underWay: plan, runs: [] });
    await actOnPlan(plan, { action: 'cancel', position: null, cell: null });
  });

  test('decode rates and modelled volumes make arithmetic', async () => {
    const row = decodeTrial(clip, { kind: 'decode-rate', passSeconds: 1, passes: 3 }, null)!;
    const figures = {
      framesPerSecond: { median: 30, low: 29, high: 31 },
      cpuUsPerFrame: 1,
      passes: 3,
      threads: 2,
      threadKind: 'frame',
    };
    await addTrials([
      {
        ...row,
        id: 'rate1',
        rigId: await thisRigId(),
        status: 'done',
        summary: {
          kind: 'decode-rate',
          decoder: 'x',
          one: null,
          all: figures,
          firstFrameMs: 1,
          byType: [],
          seeks: [],
          seekLine: null,
          memoryBytes: null,
          msPerMegapixel: null,
          msPerMegabit: null,
        },
      },
    ]);
    const id = await createBrief(await briefOf({ streams: 9, scale: 'quarter' }));
    expect((await readBriefPage(id)).decision.cells[0]).toMatchObject({
      decodeTrialId: 'rate1',
      judgement: { basis: 'arithmetic', grade: 'stalled', limit: 'decoding', meets: false },
    });
  });

  test('offers each content once, and refuses what cannot be decided', async () => {
    const { clips, volumes } = await readBriefForm();
    expect(new Set(clips.map(({ contentHash }) => contentHash)).size).toBe(clips.length);
    expect(volumes.map(({ volumeId }) => volumeId)).toContain(clip.volumeId);
    await expect(
      createBrief(await briefOf({ cameras: [{ clipId: 'gone', name: 'Wall', hoursPerDay: 1 }] })),
    ).rejects.toMatchObject({ field: 'cameras[0].clipId' });
    await expect(
      createBrief(
        await briefOf({ cameras: [1, 2].map(() => ({ clipId: clip.id, name: 'Wall', hoursPerDay: 1 })) }),
      ),
    ).rejects.toThrow('same clip');
    await expect(briefOf({ cameras: [{ clipId: clip.id, name: 'Wall', hoursPerDay: 0 }] })).rejects.toThrow(
      'some of the day',
    );
  });
});
