import { BundleError, bundleFormat, bundleVersion, parseBundle } from './bundle';

const trial = {
  id: 't1',
  kind: 'playback',
  status: 'done',
  subject: {},
  settings: {},
  createdAt: '2026-11-02T09:00:00.000Z',
  progress: { slotCount: 3 },
  recorded: { traces: [{ fromSlot: 0, slots: 3, data: 'AAAA' }] },
  summary: { later: true },
};
const bundle = {
  format: bundleFormat,
  version: bundleVersion,
  exportedAt: '2026-11-02T09:00:00.000Z',
  softwareVersion: '0.1',
  rig: { id: 'r1', name: 'Quoin', identity: { processor: 'p' }, simulated: true },
  volumes: [{ id: 'v', name: 'Store', kind: 'network', standIn: null }],
  trials: [trial],
};
const read = (change: object) => parseBundle(JSON.stringify({ ...bundle, ...change }));

test('a bundle comes back as it went out, with fields that this version does not know, and absent lists empty', () => {
  const { trials, rig, volumes } = read({});
  expect(trials).toEqual([trial]);
  expect([rig.simulated, volumes[0]?.standIn]).toEqual([true, null]);
  expect(read({ trials: undefined }).trials).toEqual([]);
  expect(read({ trials: [{ ...trial, recorded: undefined }] }).trials[0]?.recorded).toEqual({});
});

test('a bundle of the first version is read: kinds by the names that they have now, results as summaries', () => {
  const base = { status: 'done', subject: { s: 1 }, createdAt: trial.createdAt };
  const { trials } = read({
    version: 1,
    trials: undefined,
    playback: [
      {
        ...base,
        id: 'p',
        kind: 'self-check',
        settings: { scale: 'full' },
        slotCount: 3,
        charges: 'AQID',
        summary: { dropped: 1 },
        selfCheck: { trusted: true },
        trace: [{ fromSlot: 0, slots: 3, data: 'AAAA' }],
        annotation: { note: 'n', excluded: null },
      },
    ],
    storage: [
      {
        ...base,
        id: 's',
        kind: 'streams',
        volumeId: 'v',
        settings: { kind: 'streams', seconds: 4 },
        rampStreams: [1, 2],
        result: { kind: 'streams', summary: { clean: 2 } },
      },
    ],
    decode: [
      {
        ...base,
        id: 'd',
        kind: 'rate',
        settings: { kind: 'rate', passes: 3 },
        record: { passes: [] },
        result: { kind: 'rate', one: null },
      },
    ],
    timelineTests: [
      {
        ...base,
        id: 'c',
        kind: 'costs',
        settings: { kind: 'costs' },
        result: { kind: 'costs', costs: { width: 9 } },
      },
      {
        ...base,
        id: 'r',
        kind: 'ramp',
        settings: { kind: 'ramp' },
        result: { kind: 'ramp', ramp: { edges: [] } },
      },
      { ...base, id: 'x', kind: 'scrub', settings: { kind: 'scrub' }, result: null },
    ],
  });
  expect(trials).toMatchObject([
    {
      id: 'p',
      kind: 'self-check',
      settings: { scale: 'full' },
      progress: { slotCount: 3 },
      summary: { dropped: 1, selfCheck: { trusted: true } },
      annotation: { note: 'n' },
      recorded: { charges: [{ charges: 'AQID' }], traces: [{ data: 'AAAA' }], records: [] },
    },
    {
      id: 's',
      kind: 'streams-carried',
      volumeIds: ['v'],
      settings: { kind: 'streams-carried', seconds: 4 },
      summary: { clean: 2 },
      recorded: { records: [{ record: { streams: [1, 2] } }] },
    },
    {
      id: 'd',
      kind: 'decode-rate',
      settings: { kind: 'decode-rate', passes: 3 },
      summary: { kind: 'decode-rate', one: null },
      recorded: { records: [{ record: { passes: [] } }] },
    },
    { id: 'c', kind: 'calibration', settings: { kind: 'calibration' }, summary: { width: 9 } },
    { id: 'r', kind: 'ramp', summary: { edges: [] } },
    { id: 'x', kind: 'scrub', summary: null },
  ]);
  expect(trials.some((one) => 'result' in one || 'place' in one)).toBe(false);
});

test.each([
  ['nonsense', 'not JSON'],
  [JSON.stringify([]), 'not a result bundle'],
  [JSON.stringify({ format: 'else' }), 'not a result bundle'],
  [JSON.stringify({ ...bundle, version: 'one' }), 'whole number'],
  [JSON.stringify({ ...bundle, version: 99 }), 'reads up to version 2'],
  [JSON.stringify({ ...bundle, rig: { ...bundle.rig, name: '' } }), 'rig.name must be text'],
  [JSON.stringify({ ...bundle, trials: {} }), 'trials must be a list'],
  [
    JSON.stringify({ ...bundle, trials: [{ ...trial, subject: null }] }),
    'trials[0].subject must be an object',
  ],
  [JSON.stringify({ ...bundle, trials: [{ ...trial, kind: 'weather' }] }), 'trials[0].kind is "weather"'],
  [
    JSON.stringify({ ...bundle, trials: [{ ...trial, createdAt: 'yesterday' }] }),
    'trials[0].createdAt must be a time',
  ],
  [
    JSON.stringify({ ...bundle, trials: [{ ...trial, recorded: { traces: {} } }] }),
    't1.recorded.traces must be a list',
  ],
  [
    JSON.stringify({ ...bundle, version: 1, playback: [{ ...trial, trace: [7] }] }),
    'playback[0].trace[0] must be an object',
  ],
  [
    JSON.stringify({ ...bundle, version: 1, decode: [{ ...trial, kind: '' }] }),
    'decode[0].kind must be text',
  ],
  [JSON.stringify({ ...bundle, volumes: [7] }), 'volumes[0] must be an object'],
])('what is wrong is named with its place: %#', (text, message) => {
  expect(() => parseBundle(text)).toThrow(BundleError);
  expect(() => parseBundle(text)).toThrow(message);
});
