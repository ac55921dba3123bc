/** @jest-environment jsdom */
import { fireEvent, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { Brief } from '@/core/choose/brief';
import { rational } from '@/core/time/rational';
import type { RigRow } from '@/db/queries/rigs';
import type { BriefForm as Offer } from '@/server/decide/briefs';
import type { CompareChoice } from '@/server/decide/compareChoices';
import type { Decision, MapCell } from '@/server/decide/decision';
import type { PlanChoices } from '@/server/decide/planChoices';
import type { PlanPage, PlanPreview } from '@/server/decide/plans';
import { BriefForm } from './BriefForm';
import { BriefsView } from './BriefsView';
import { BriefView } from './BriefView';
import { FirstRun } from './FirstRun';
import { ChooseSides } from '../compare/ChooseSides';
import { PlanForm } from '../plans/PlanForm';
import { PlanView } from '../plans/PlanView';
import { Exchange } from '../rig/Exchange';
import {
  event,
  inBrowser,
  press,
  pushed,
  read,
  Refusal,
  requests,
  server,
  settle,
  show,
  status,
  type,
} from '../testing/livePage';

inBrowser();

const format = {
  container: 'MOV',
  codec: 'ProRes',
  profile: 'Standard',
  bitDepth: 10,
  chroma: '4:2:2',
  width: 1920,
  height: 1080,
  rate: rational(24),
};
const box = (name: string | RegExp) => screen.getByRole('checkbox', { name });

describe('the form of a matrix', () => {
  const clip = (id: string, name: string, volumeId: string) => ({
    id,
    name,
    also: [],
    proxy: false,
    format,
    volumeId,
    volumeName: volumeId,
  });
  const choices: PlanChoices = {
    clips: [clip('k1', 'TW_WALL_0107.mov', 'v1'), clip('k2', 'TW_KITE_0031.mp4', 'v2')],
    timelines: [{ id: 'm1', name: 'Reel one' }],
    volumes: [
      { id: 'v1', name: 'Edit room', simulated: false },
      { id: 'v2', name: 'Store', simulated: true },
    ],
    devices: [{ id: 'stand-in-spring', name: 'Spring', simulated: true }],
  };
  const preview: PlanPreview = {
    cells: [{ test: 'playback', labels: {} as never, expectedMs: 1 }],
    runs: 6,
    expectedMs: 95_000,
    writes: { bytes: 268_435_456, volumes: ['Edit room'] },
    tasks: {},
    leftOut: [
      {
        what: 'playback, TW_KITE_0031.mp4, proxies',
        reason: 'It has no proxy. Make one under Media, Renditions.',
      },
    ],
  };

  test('takes over its question’s conditions, keeps the clips, and gives all back by undo', async () => {
    server(({ path }) => (path === '/api/plans/preview' ? preview : undefined));
    await show(<PlanForm choices={choices} wanted="clip:k2" />);
    expect(
      [
        box('TW_KITE_0031.mp4 ProRes Standard 10-bit 4:2:2, 1920x1080; v2'),
        box('Store simulated'),
        box('Scrub'),
      ].map((one) => (one as HTMLInputElement).checked),
    ).toEqual([true, true, true]);
    await userEvent.selectOptions(screen.getByLabelText('Question'), 'which-volume');
    expect(
      [box(/^Edit room/), box('Store simulated'), box('Throughput'), box('Scrub')].map(
        (one) => (one as HTMLInputElement).checked,
      ),
    ).toEqual([true, true, true, false]);
    expect(box(/^TW_KITE/)).toHaveProperty('checked', true);
    expect(screen.getByLabelText('Repeats')).toHaveProperty('value', '5');
    await userEvent.click(box('Proxies'));
    (document.activeElement as HTMLElement).blur();
    await userEvent.keyboard('{Control>}z{/Control}');
    expect(box('Proxies')).toHaveProperty('checked', false);
    await userEvent.keyboard('{Control>}z{/Control}');
    expect(screen.getByLabelText('Question')).toHaveProperty('value', 'camera-from-volume');
    await userEvent.keyboard('{Control>}y{/Control}');
    expect(screen.getByLabelText('Question')).toHaveProperty('value', 'which-volume');
  });

  test('says what it will do, what it writes and what is left out, and starts just that', async () => {
    server(({ path }) =>
      path === '/api/plans/preview' ? preview : path === '/api/plans' ? { id: 'p1' } : undefined,
    );
    await show(<PlanForm choices={choices} wanted="clip:k1" />);
    expect(read()).toContain('Counting the runs');
    expect(screen.getByRole('button', { name: 'Start' })).toHaveProperty('disabled', true);
    await screen.findByRole('button', { name: 'Start 6 runs' });
    for (const part of [
      '1 condition, 6 runs, about 1:35',
      'Throughput writes a test file of 268.4 MB to Edit room and removes it',
      '1 condition is left out',
      'It has no proxy. Make one under Media, Renditions.',
    ])
      expect(read()).toContain(part);
    await userEvent.click(screen.getByText('Name, order and cache'));
    await userEvent.click(screen.getByRole('radio', { name: 'Random, from the seed' }));
    await type('Seed', '77');
    await userEvent.click(box('Reel one timeline'));
    await press('Start 6 runs');
    expect(requests.find(({ path }) => path === '/api/plans')).toEqual({
      method: 'POST',
      path: '/api/plans',
      body: {
        question: 'camera-from-volume',
        name: '',
        volumeIds: ['v1'],
        forms: ['originals'],
        scales: ['full', 'half'],
        deviceIds: ['software'],
        caches: ['past'],
        tests: ['playback', 'scrub'],
        repeats: 3,
        mostMadeUp: 2,
        order: 'random',
        seed: 77,
        warm: false,
        subjects: [
          { kind: 'clip', id: 'k1' },
          { kind: 'timeline', id: 'm1' },
        ],
      },
    });
    expect(pushed).toEqual(['/trials/plans/p1']);
  });

  test('device out, device in: software and every device are chosen, for what one came with', async () => {
    server(({ path }) =>
      path === '/api/plans/preview' ? preview : path === '/api/plans' ? { id: 'p1' } : undefined,
    );
    await show(<PlanForm choices={choices} wanted="timeline:m1" question="device-out-device-in" />);
    expect(screen.getByLabelText('Question')).toHaveProperty('value', 'device-out-device-in');
    expect(box('Reel one timeline')).toHaveProperty('checked', true);
    expect(
      [box('Software'), box('Spring (simulated)')].map((one) => (one as HTMLInputElement).checked),
    ).toEqual([true, true]);
    await press(await screen.findByRole('button', { name: 'Start 6 runs' }).then(() => 'Start 6 runs'));
    expect(requests.find(({ path }) => path === '/api/plans')?.body).toMatchObject({
      deviceIds: ['software', 'stand-in-spring'],
      volumeIds: [],
      subjects: [{ kind: 'timeline', id: 'm1' }],
      tests: ['playback', 'scrub'],
    });
  });

  test('says what is wrong before it can start, and keeps what was chosen', async () => {
    server(({ path }) =>
      path === '/api/plans/preview'
        ? new Refusal('Choose at least one clip or timeline.', 'subjects')
        : undefined,
    );
    await show(<PlanForm choices={choices} wanted={null} />);
    await userEvent.click(box(/^TW_WALL/));
    await screen.findByText('Choose at least one clip or timeline.');
    expect(screen.getByRole('button', { name: 'Start' })).toHaveProperty('disabled', true);
    expect(box('Half')).toHaveProperty('checked', true);
  });
});

test('a matrix under way is paused, skipped and told by its keys and buttons', async () => {
  const step = (position: number, change: Partial<PlanPage['steps'][number]>): PlanPage['steps'][number] => ({
    planId: 'p1',
    position,
    cell: 0,
    repeat: position,
    status: 'waiting',
    trialId: null,
    attempts: 1,
    outcome: null,
    inDoubt: false,
    startedAt: null,
    endedAt: null,
    headline: null,
    ...change,
  });
  const at = (state: PlanPage['plan']['status'], steps: PlanPage['steps']): PlanPage => ({
    plan: {
      id: 'p1',
      rigId: 'here',
      name: 'Which volume?',
      question: 'which-volume',
      settings: {
        subjects: [],
        volumeIds: [],
        forms: ['originals'],
        scales: ['full'],
        tests: ['playback'],
        repeats: 2,
        order: 'interleaved',
        seed: 1,
        warm: false,
        policy: 'hold-time',
      },
      status: state,
      imported: false,
      demo: 0,
      createdAt: new Date(0),
      startedAt: null,
      endedAt: null,
    },
    from: 'Slipway',
    msLeft: 20_000,
    steps,
    cells: [
      {
        planId: 'p1',
        cell: 0,
        address: { test: 'playback', subject: null, volumeId: null, form: 'originals', scale: 'full' },
        labels: {
          what: 'TW_WALL_0107.mov',
          volume: 'Store',
          simulated: false,
          form: 'originals',
          scale: 'full',
          format: null,
        },
        expectedMs: 10_000,
        kind: 'playback',
      },
    ],
  });
  let now = at('queued', [step(0, {}), step(1, {})]);
  server(({ path, method }) =>
    path === '/api/plans/p1' ? now : method === 'POST' ? { done: 1 } : undefined,
  );
  await show(<PlanView initial={now} />);
  expect(screen.getByTestId('plan-state').textContent).toBe('Waiting for its turn');
  now = at('running', [step(0, { status: 'running', trialId: 't1' }), step(1, {})]);
  await event({ type: 'plan', planId: 'p2' });
  expect(screen.getByTestId('plan-state').textContent).toBe('Waiting for its turn');
  await event({ type: 'plan', planId: 'p1' });
  expect(read()).toContain('Now: Playback, TW_WALL_0107.mov from Store, repeat 1');
  await event({
    type: 'trial-progress',
    trialId: 't1',
    progress: {
      counters: {
        slot: 12,
        slotCount: 48,
        shown: 12,
        dropped: 0,
        settled: 12,
        achievedRate: 24,
        depths: { read: 0, decoded: 0, ready: 0 },
        cpuUs: 0,
      },
      msLeft: 1_000,
    },
  });
  expect(read()).toContain('repeat 1, slot 12 of 48');
  await press('Skip this run');
  await userEvent.keyboard('{Escape}');
  await settle();
  now = at('paused', [step(0, { status: 'skipped' }), step(1, {})]);
  await event({ type: 'plan', planId: 'p1' });
  expect(screen.getByTestId('plan-state').textContent).toBe('Paused after 1 of 2 runs; about 0:20 left');
  (document.activeElement as HTMLElement).blur();
  await userEvent.keyboard(' ');
  await settle();
  expect(requests).toEqual(
    [{ action: 'skip', position: 0 }, { action: 'pause' }, { action: 'resume' }].map((body) => ({
      method: 'POST',
      path: '/api/plans/p1/actions',
      body,
    })),
  );
});

test('sides are picked from a list and opened as an address that can be sent', async () => {
  const choice = (
    token: string,
    kind: CompareChoice['kind'],
    name: string,
    at: string,
    simulated = false,
  ): CompareChoice => ({ token, kind, name, volume: 'Store', simulated, rig: 'Slipway', at, runs: 5 });
  const { again } = await show(
    <ChooseSides
      choices={[
        choice('p.a', 'matrix', 'Which volume?', '2026-11-25T09:00:00Z'),
        choice('t.b', 'playback', 'TW_WALL_0107.mov, full scale', '2026-11-25T10:00:00Z', true),
      ]}
    />,
  );
  const rows = within(screen.getByRole('table', { name: 'What can be compared' })).getAllByRole('row');
  expect(rows[1]?.textContent).toContain('TW_WALL'); // the newest first
  expect(rows[1]?.textContent).toContain('simulated');
  await userEvent.click(box('Choose Which volume?'));
  expect(screen.getByRole('button', { name: 'Open' })).toBeTruthy();
  await userEvent.click(box(/^Choose TW_WALL/));
  await press('Compare 2');
  expect(pushed).toEqual(['/compare?sides=p.a,t.b']);
  await again(<ChooseSides choices={[]} />);
  expect(read()).toContain('Nothing to compare yet');
});

const offer: Offer = {
  rigId: 'here',
  clips: [
    {
      id: 'k1',
      path: 'wall-camera/TW_WALL_0107.mov',
      also: [],
      proxy: false,
      format,
      contentHash: 'h1',
      meanBitsPerSecond: 180e6,
      peakBitsPerSecond: 187e6,
    },
    {
      id: 'k2',
      path: 'kite_camera/TW_KITE_0031.mp4',
      also: ['B.mp4'],
      proxy: true,
      format,
      contentHash: 'h2',
      meanBitsPerSecond: 20e6,
      peakBitsPerSecond: 30e6,
    },
  ] as unknown as Offer['clips'],
  volumes: [
    {
      rigId: 'here',
      rigName: 'Slipway',
      imported: null,
      volumeId: 'v1',
      name: 'Edit room',
      kind: 'internal',
      price: null,
      simulated: false,
    },
    {
      rigId: 'here',
      rigName: 'Slipway',
      imported: null,
      volumeId: 'v3',
      name: 'Card reader',
      kind: 'card',
      price: null,
      simulated: false,
    },
    {
      rigId: 'quoin',
      rigName: 'Quoin',
      imported: { simulated: true, softwareVersion: 'x', exportedAt: '' },
      volumeId: 'v2',
      name: 'Store',
      kind: 'network',
      price: 4_200,
      simulated: true,
    },
  ],
};

describe('the form of a brief', () => {
  test('begins with what is known, names cameras by their folders, and sends figures with their units', async () => {
    server(({ path }) => (path === '/api/briefs' ? { id: 'b1' } : undefined));
    await show(<BriefForm offer={offer} id={null} name="" brief={null} />);
    expect(screen.getByLabelText('Camera')).toHaveProperty('value', 'Wall camera');
    expect(
      [box('Edit room'), box('Card reader'), box('Store simulated')].map(
        (one) => (one as HTMLInputElement).checked,
      ),
    ).toEqual([true, false, false]);
    expect(screen.getByLabelText('Price of Store, EUR')).toHaveProperty('disabled', true);
    await userEvent.click(box('Store simulated'));
    expect(screen.getByLabelText('Price of Store, EUR')).toHaveProperty('value', '4200');
    await press('Add a camera');
    expect(screen.getAllByLabelText('Camera').map((field) => (field as HTMLInputElement).value)).toEqual([
      'Wall camera',
      'Kite camera',
    ]);
    await press('Remove Wall camera');
    await type('Job', 'Harbour wall');
    await type('Budget for a volume, EUR', '5000');
    await type('Margin, %', '30');
    await type('Card in its reader, MB/s', '104');
    await userEvent.click(screen.getByRole('radio', { name: '4x' }));
    await press('Draw the map');
    expect(requests[0]).toEqual({
      method: 'POST',
      path: '/api/briefs',
      body: {
        name: 'Harbour wall',
        question: '',
        days: 10,
        streams: 1,
        looks: 0,
        scale: 'full',
        speed: 4,
        grade: 'workable',
        margin: 0.3,
        budget: 5000,
        cardMegabytesPerSecond: 104,
        cameras: [{ clipId: 'k2', name: 'Kite camera', hoursPerDay: 1 }],
        places: [
          { rigId: 'here', volumeId: 'v1', price: null },
          { rigId: 'quoin', volumeId: 'v2', price: 4_200 },
        ],
      },
    });
    expect(pushed).toEqual(['/choose/b1']);
  });

  test('shows which camera was refused, keeps all that was typed, and undoes it', async () => {
    server(({ path }) =>
      path === '/api/briefs'
        ? new Refusal('A camera brings some of the day: more than 0 h.', 'cameras[0].hoursPerDay')
        : undefined,
    );
    await show(<BriefForm offer={offer} id={null} name="" brief={null} />);
    await type('Job', 'Harbour wall');
    await type('A day, h', '0');
    await press('Draw the map');
    expect(screen.getByLabelText('A day, h').getAttribute('aria-invalid')).toBe('true');
    expect(screen.getByRole('alert').textContent).toContain('some of the day');
    expect(screen.getByLabelText('Job')).toHaveProperty('value', 'Harbour wall');
    await press('Remove Wall camera');
    expect(screen.queryByLabelText('Camera')).toBeNull();
    (document.activeElement as HTMLElement).blur();
    await userEvent.keyboard('{Control>}z{/Control}');
    expect(screen.getByLabelText('A day, h')).toHaveProperty('value', '0');
    // What was typed in one field goes as one; each box is a step of its own.
    await userEvent.keyboard('{Control>}z{/Control}');
    expect(screen.getByLabelText('A day, h')).toHaveProperty('value', '2');
    expect(screen.getByLabelText('Job')).toHaveProperty('value', 'Harbour wall');
    await userEvent.click(box('Store simulated'));
    await userEvent.click(box('Card reader'));
    await userEvent.keyboard('{Control>}z{/Control}');
    expect(
      [box('Card reader'), box('Store simulated')].map((one) => (one as HTMLInputElement).checked),
    ).toEqual([false, true]);
  });
});

const brief: Brief = {
  question: 'Which volume?',
  cameras: [
    {
      id: 'c1',
      name: 'Wall camera',
      contentHash: 'h1',
      clipName: 'wall.mov',
      format,
      meanBitsPerSecond: 180e6,
      peakBitsPerSecond: 187e6,
      hoursPerDay: 2,
    },
  ],
  days: 10,
  streams: 1,
  looks: 0,
  scale: 'full',
  speed: 1,
  margin: 0.25,
  grade: 'workable',
  budget: null,
  places: [{ rigId: 'here', volumeId: 'v1', price: null }],
  cardBytesPerSecond: null,
};
const briefRow = {
  id: 'b1',
  rigId: 'here',
  name: 'Harbour wall',
  document: brief,
  demo: 0,
  createdAt: new Date(0),
  updatedAt: new Date('2026-11-25T09:00:00Z'),
};

test('an unknown cell is filled by its one button, says so while it is measured, and opens its evidence', async () => {
  const cell = (change: Partial<MapCell>): MapCell => ({
    rowId: 'h1',
    rigId: 'here',
    volumeId: 'v1',
    judgement: {
      basis: 'unknown',
      grade: null,
      headroom: null,
      underMargin: false,
      limit: null,
      meets: null,
      cure: null,
      missing: ['volume', 'decoding'],
      isDoubtful: false,
    },
    runs: [],
    decodeTrialId: null,
    volumeTrialId: null,
    underWay: null,
    failed: null,
    cannot: null,
    ...change,
  });
  const decision = (one: MapCell): Decision => ({
    sentence: 'No set-up is known to meet the brief yet: 1 cell is unknown.',
    rows: [
      {
        id: 'h1',
        cameraId: 'c1',
        role: 'original',
        name: 'Wall camera',
        format,
        formatLabel: 'ProRes Standard',
        meanBitsPerSecond: 180e6,
        peakBitsPerSecond: 187e6,
      },
    ],
    places: [
      {
        rigId: 'here',
        rigName: 'Slipway',
        imported: null,
        volumeId: 'v1',
        name: 'Edit room',
        kind: 'internal',
        simulated: false,
        price: null,
        rate: null,
      },
    ],
    cells: [one],
    setUps: [],
    withoutProxy: [],
    cardBytesPerSecond: null,
  });
  let now = cell({});
  server(({ path, method }) =>
    path === '/api/briefs/b1' && method === 'GET'
      ? { brief: briefRow, decision: decision(now) }
      : path === '/api/briefs/b1/measure'
        ? { id: 'p1' }
        : undefined,
  );
  await show(<BriefView initial={{ brief: briefRow, decision: decision(now) }} rigId="here" />);
  await press('Measure it');
  expect(requests).toEqual([
    { method: 'POST', path: '/api/briefs/b1/measure', body: { cells: [{ rowId: 'h1', volumeId: 'v1' }] } },
  ]);
  now = cell({ underWay: 'p1' });
  await event({ type: 'plan', planId: 'p1' });
  expect(screen.getByRole('link', { name: 'measuring now' }).getAttribute('href')).toBe('/trials/plans/p1');
  expect(screen.queryByRole('button', { name: 'Measure it' })).toBeNull();
  now = cell({
    judgement: {
      basis: 'measured',
      grade: 'rough',
      headroom: -0.2,
      underMargin: false,
      limit: 'slowest stage',
      meets: false,
      cure: 'Half scale would have removed 41 of 46 drops.',
      missing: [],
      isDoubtful: false,
    },
    runs: [1, 2].map((at) => ({
      trialId: `t${at}`,
      grade: 'rough' as const,
      dropped: 46,
      slots: 192,
      slowestMs: 52,
      cures: [],
      doubt: at === 2 ? ('disturbed' as const) : null,
    })),
  });
  await event({ type: 'trial-status', trialId: 't2', kind: 'playback', volumeIds: [], status: 'done' });
  await press(/^Wall camera from Edit room: rough, measured/);
  const evidence = within(screen.getByRole('dialog'));
  expect(evidence.getByText('Half scale would have removed 41 of 46 drops.')).toBeTruthy();
  expect(
    evidence.getAllByRole('link', { name: '46 of 192 dropped' }).map((link) => link.getAttribute('href')),
  ).toEqual(['/trials/t1', '/trials/t2']);
  expect(evidence.getByRole('link', { name: 'Compare them' }).getAttribute('href')).toBe(
    '/compare?sides=t.t1,t.t2',
  );
  await userEvent.keyboard('{Escape}');
  expect(screen.queryByRole('dialog')).toBeNull();
});

test('briefs are listed newest first with what they ask; without one the way to the first is shown', async () => {
  const { again } = await show(
    <BriefsView
      initial={[{ ...briefRow, id: 'b0', name: 'Salt marsh', updatedAt: new Date(0) }, briefRow]}
    />,
  );
  const rows = within(screen.getByRole('table', { name: 'Briefs' }))
    .getAllByRole('row')
    .map(({ textContent }) => textContent);
  expect(rows[1]).toMatch(/^Harbour wall.*Which volume\?Wall camera1/);
  expect(rows[2]).toMatch(/^Salt marsh/);
  await again(<BriefsView initial={[]} />);
  expect(
    screen.getByRole('link', { name: 'From a folder of clips to a decision' }).getAttribute('href'),
  ).toBe('/choose/first');
});

test('from a folder to a map: the scan is followed, one clip stands for each footage, and the measuring begins', async () => {
  const clip = (
    id: string,
    path: string,
    footageId: string | null,
    meanBitsPerSecond: number,
    change: object = {},
  ) => ({ id, path, footageId, meanBitsPerSecond, frames: 192, format, contentHash: id, ...change });
  const volume = (change: object) => ({
    volume: { id: 'v9', name: 'Shuttle', price: 300, scan: null, scannedAt: null, lastScan: null, ...change },
    trials: [],
    clips: [] as unknown[],
  });
  let now = volume({ scan: { done: 1, total: 4 } });
  server(({ path }) =>
    path === '/api/volumes'
      ? { id: 'v9' }
      : path === '/api/volumes/v9'
        ? now
        : path === '/api/briefs'
          ? { id: 'b7' }
          : path.startsWith('/api/briefs/b7')
            ? { id: 'p7' }
            : undefined,
  );
  await show(<FirstRun volumes={[]} rigId="here" />, status);
  const current = () =>
    screen.getAllByRole('region', { current: 'step' }).map((region) => region.getAttribute('aria-label'));
  expect(current()).toEqual(['Step 1']);
  await type('Folder on this host', '/media/shuttle/tidewrack');
  await press('Add and scan');
  expect(requests[0]?.body).toMatchObject({ path: '/media/shuttle/tidewrack', name: 'tidewrack' });
  expect(current()).toEqual(['Step 2']);
  expect(read()).toContain('1 of 4');
  now = {
    ...volume({ scannedAt: '2026-11-25T09:00:00Z', lastScan: { added: 5, changed: 0, moved: 0, same: 0 } }),
    clips: [
      clip('o', 'wall/TW_WALL.mov', 'f1', 180e6),
      clip('p', 'wall/TW_WALL_proxy.mov', 'f1', 20e6),
      clip('k', 'kite/TW_KITE.mp4', null, 40e6),
      clip('s', 'stills/CHART.mov', null, 1, { frames: 1 }),
    ],
  };
  await event({ type: 'volume', volumeId: 'v9', done: 4, total: 4, finished: true });
  expect(current()).toEqual(['Step 3']);
  expect(read()).toContain('2 different clips found');
  expect(read()).toContain('1 file of this folder cannot be played; Media says why.');
  await userEvent.click(box(/^kite/));
  await type('Each camera, a day, h', '3');
  await press('Measure 1 camera');
  expect(requests.slice(1).map(({ path, body }) => [path, body])).toMatchObject([
    [
      '/api/briefs',
      {
        name: 'Shuttle',
        cameras: [{ clipId: 'o', name: 'TW_WALL', hoursPerDay: 3 }],
        days: 10,
        scale: 'full',
        grade: 'workable',
        places: [{ rigId: 'here', volumeId: 'v9', price: 300 }],
      },
    ],
    ['/api/briefs/b7/measure', { cells: null }],
  ]);
  expect(pushed).toEqual(['/choose/b7']);
});

test('a bundle is taken in, told in counts, and refused with its name; a rig is forgotten by name', async () => {
  let reloaded = 0;
  const quoin = {
    id: 'quoin',
    name: 'Quoin',
    identity: { processor: 'Eight-core processor', logicalCores: 16 },
    imported: { simulated: true, softwareVersion: 'x', exportedAt: '2026-11-02T09:00:00Z' },
  } as unknown as RigRow;
  const counted = (added: number, known: number) => ({ added, known });
  const told = {
    rigName: 'Quoin',
    simulated: true,
    version: 3,
    exportedAt: '2026-11-02T09:00:00Z',
    softwareVersion: '0.1',
    proved: true,
    trials: counted(14, 3),
    timelines: counted(2, 0),
    plans: counted(0, 0),
    looks: counted(0, 1),
    notes: ['1 medium of its timelines is not in this library.'],
  };
  server(({ path, method }) =>
    path.startsWith('/api/bundles')
      ? { ...told, stored: !path.includes('store=no') }
      : path === '/api/rigs/quoin' && method === 'DELETE'
        ? {}
        : undefined,
  );
  await show(
    <Exchange
      others={[quoin]}
      reload={() => {
        reloaded++;
        return Promise.resolve();
      }}
    />,
  );
  expect(read()).toContain('Quoinsimulated');
  const take = async (name: string) => {
    const file = Object.assign(new File(['{}'], name), { text: () => Promise.resolve('{}') });
    fireEvent.change(screen.getByLabelText('Bundle to import'), { target: { files: [file] } });
    await settle();
    await settle();
  };
  await take('quoin.json');
  // What is in it is told first, and nothing is stored.
  expect(screen.getByRole('status').textContent).toContain('Nothing is stored yet.');
  expect(read()).toContain('Its hashes are right');
  expect(read()).toContain('1 medium of its timelines is not in this library.');
  const rows = screen.getAllByRole('row').map(({ textContent }) => textContent);
  expect(rows).toEqual([
    'In the bundleNew hereHere already, left as they are',
    'Trials143',
    'Timelines20',
    'Looks01',
  ]);
  expect(reloaded).toBe(0);
  await press('Import');
  expect(screen.getByRole('status').textContent).toContain('14 results added, 3 were here already.');
  expect(reloaded).toBe(1);
  server(({ path }) =>
    path.startsWith('/api/bundles')
      ? new Refusal('It is no bundle of results: "format" is missing.')
      : undefined,
  );
  await take('notes.json');
  expect(screen.getByRole('alert').textContent).toBe(
    'notes.json: It is no bundle of results: "format" is missing.',
  );
  expect(reloaded).toBe(1);
  server(({ path }) => (path === '/api/rigs/quoin' ? {} : undefined));
  await press('Remove Quoin');
  await press('Remove');
  expect(requests.at(-1)).toEqual({ method: 'DELETE', path: '/api/rigs/quoin', body: null });
  expect(reloaded).toBe(2);
});
