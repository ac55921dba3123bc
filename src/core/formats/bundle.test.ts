import { BundleError, bundleFormat, bundleVersion, parseBundle } from './bundle';

const trial = {
  id: 't1',
  kind: 'playback',
  status: 'done',
  subject: {},
  settings: {},
  createdAt: '2026-11-02T09:00:00.000Z',
  slotCount: 3,
  trace: [{ fromSlot: 0, slots: 3, data: 'AAAA' }],
  summary: { later: true },
};
const bundle = {
  format: bundleFormat,
  version: bundleVersion,
  exportedAt: '2026-11-02T09:00:00.000Z',
  softwareVersion: '0.1',
  rig: { id: 'r1', name: 'Quoin', identity: { processor: 'p' }, simulated: true },
  volumes: [{ id: 'v', name: 'Store', kind: 'network', standIn: null }],
  playback: [trial],
};
const read = (change: object) => parseBundle(JSON.stringify({ ...bundle, ...change }));

test('a bundle comes back as it went out, with fields that this version does not know, and absent lists empty', () => {
  const { playback, storage, rig, volumes } = read({});
  expect(playback[0]).toEqual(trial);
  expect([storage, rig.simulated, volumes[0]?.standIn]).toEqual([[], true, null]);
});

test.each([
  ['nonsense', 'not JSON'],
  [JSON.stringify([]), 'not a result bundle'],
  [JSON.stringify({ format: 'else' }), 'not a result bundle'],
  [JSON.stringify({ ...bundle, version: 'one' }), 'whole number'],
  [JSON.stringify({ ...bundle, version: 99 }), 'reads up to version 1'],
  [JSON.stringify({ ...bundle, rig: { ...bundle.rig, name: '' } }), 'rig.name must be text'],
  [JSON.stringify({ ...bundle, playback: {} }), 'playback must be a list'],
  [
    JSON.stringify({ ...bundle, playback: [{ ...trial, subject: null }] }),
    'playback[0].subject must be an object',
  ],
  [
    JSON.stringify({ ...bundle, playback: [{ ...trial, createdAt: 'yesterday' }] }),
    'playback[0].createdAt must be a time',
  ],
  [
    JSON.stringify({ ...bundle, playback: [{ ...trial, trace: [{ fromSlot: 0 }] }] }),
    'playback[0].trace[0] must have',
  ],
  [JSON.stringify({ ...bundle, volumes: [7] }), 'volumes[0] must be an object'],
])('what is wrong is named with its place: %#', (text, message) => {
  expect(() => parseBundle(text)).toThrow(BundleError);
  expect(() => parseBundle(text)).toThrow(message);
});
