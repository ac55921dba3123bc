import { trialKinds, type TrialKind } from '../kinds/kinds';
import { isRecord } from '../record';
import { mostSlots } from '../timeline/model';
import { parseBundle as parse } from './bundle';
import { misfitOf } from './bundleCheck';
import { BundleError } from './bundleError';
import {
  asExported,
  least,
  most,
  sampleBundle,
  sampleLook,
  samplePlan,
  sampleTimeline,
  sampleTrial,
  sha256,
  wild,
} from './testing/bundleSamples';

const parseBundle = (text: string) => parse(text, sha256);
const read = (trials: readonly unknown[], change: object = {}) =>
  parseBundle(JSON.stringify(sampleBundle(trials, change)));
const played = sampleTrial('playback', 't1', most);

test.each(trialKinds)(
  '%s comes back as it went out, with as little and with all that it may have',
  (kind) => {
    const trials = [least, most, wild(7)].map((choice, index) => sampleTrial(kind, `t${index}`, choice));
    expect(read(trials).trials).toEqual(trials);
  },
);

test('fields that this version does not know stay in a trial, and absent lists are empty', () => {
  const trial = { ...played, later: { more: 1 } };
  expect(read([trial]).trials).toEqual([trial]);
  const bare = parseBundle(
    asExported({
      ...sampleBundle([]),
      trials: undefined,
      volumes: undefined,
      softwareVersion: undefined,
    }),
  );
  expect([bare.trials, bare.volumes, bare.timelines, bare.plans, bare.looks]).toEqual([[], [], [], [], []]);
  expect(bare.softwareVersion).toBe('unknown');
});

/** Every field of a document that holds no further ones, with what holds it. Lists are told as well. */
function* fieldsOf(
  owner: Record<string, unknown>,
): Generator<readonly [owner: Record<string, unknown>, name: string, value: unknown]> {
  for (const [name, value] of Object.entries(owner)) {
    if (!isRecord(value)) yield [owner, name, value];
    if (typeof value === 'object' && value !== null) yield* fieldsOf(value as Record<string, unknown>);
  }
}

test.each(trialKinds)('no field of %s may be a thing that belongs nowhere', (kind) => {
  const trial = sampleTrial(kind, 't1', most) as unknown as Record<string, unknown>;
  const bundle = { ...sampleBundle([trial]), trials: [trial] };
  expect(misfitOf(bundle)).toBeNull();
  let fields = 0;
  const taken: string[] = [];
  for (const [owner, name, value] of fieldsOf(trial)) {
    fields++;
    owner[name] = { walk: { walk: 1 } };
    if (misfitOf(bundle) === null) taken.push(name);
    owner[name] = value;
  }
  expect(taken).toEqual([]);
  expect(fields).toBeGreaterThan(30);
});

test.each<[string, string]>([
  ['nonsense', 'not JSON'],
  [JSON.stringify([]), 'not a result bundle'],
  [JSON.stringify({ format: 'else' }), 'not a result bundle'],
  [JSON.stringify(sampleBundle([], { version: 'one' })), 'whole number'],
  [JSON.stringify(sampleBundle([], { version: 99 })), 'reads up to version 3'],
  [
    JSON.stringify(sampleBundle([], { rig: { id: 'r', name: '', identity: {} } })),
    'rig.name must not be empty',
  ],
  [JSON.stringify(sampleBundle([], { rig: { id: '../r', name: 'Q' } })), 'rig must have “identity”'],
  [JSON.stringify(sampleBundle({} as never)), 'trials must be a list'],
  [JSON.stringify(sampleBundle([{ ...played, subject: null }])), 'trials[0].subject must be an object'],
  [
    JSON.stringify(sampleBundle([played, { ...played, id: 'b', kind: 'weather' }])),
    'trials[1].kind must be one of playback,',
  ],
  [JSON.stringify(sampleBundle([{ ...played, kind: undefined }])), 'trials[0] must have “kind”'],
  [JSON.stringify(sampleBundle([{ ...played, status: 'running' }])), 'trials[0].status must be one of'],
  [
    JSON.stringify(sampleBundle([{ ...played, createdAt: 'yesterday' }])),
    'trials[0].createdAt must be a time',
  ],
  [
    JSON.stringify(sampleBundle([{ ...played, endedAt: '2026-03-01T23:59:60Z' }])),
    'trials[0].endedAt must be a time',
  ],
  [JSON.stringify(sampleBundle([{ ...played, summary: {} }])), 'trials[0].summary must have'],
  [JSON.stringify(sampleBundle([{ ...played, id: 'a b' }])), 'trials[0].id'],
  [JSON.stringify(sampleBundle([{ ...played, outcome: 'a\0b' }])), 'characters that cannot be kept'],
  [
    JSON.stringify(sampleBundle([{ ...played, detail: 'deep' }])).replace(
      '"deep"',
      `${'['.repeat(40)}${']'.repeat(40)}`,
    ),
    'nested deeper',
  ],
  [JSON.stringify(sampleBundle([played, played])), 'trials[1].id appears twice in the bundle'],
  [
    JSON.stringify(sampleBundle([{ ...played, recorded: { traces: {} } }])),
    'trials[0].recorded.traces must be a list',
  ],
  [
    JSON.stringify(
      sampleBundle([{ ...played, recorded: { traces: [{ fromSlot: 0, slots: -1, data: '' }] } }]),
    ),
    'trials[0].recorded.traces[0].slots must be at least 0',
  ],
  [
    JSON.stringify(sampleBundle([{ ...played, recorded: { records: [{ record: 1 }] } }])),
    'trials[0].recorded.records must not be longer than 0',
  ],
  [
    JSON.stringify(sampleBundle([{ ...played, progress: { slotCount: mostSlots + 1 } }])),
    `trials[0].progress.slotCount must be at most ${mostSlots}`,
  ],
  [
    JSON.stringify(sampleBundle([{ ...played, progress: { slotCount: 1.5 } }])),
    'trials[0].progress.slotCount must be a whole number',
  ],
  [JSON.stringify(sampleBundle([], { volumes: [7] })), 'volumes[0] must be an object'],
])('what is wrong is named with its place: %#', (text, message) => {
  expect(() => parseBundle(text)).toThrow(BundleError);
  expect(() => parseBundle(text)).toThrow(message);
});

/** A trial as the first version had it: by another list, with its result elsewhere. */
function asFirst(kind: TrialKind, id: string, change: object = {}) {
  const {
    recorded: _recorded,
    summary,
    progress: _progress,
    volumeIds: _ids,
    ...trial
  } = sampleTrial(kind, id, most);
  return { trial: { ...trial, ...change }, summary };
}

test('a bundle of the first version is read: kinds by the names that they have now, results as summaries', () => {
  const check = asFirst('self-check', 'p');
  const { selfCheck, ...checked } = check.summary as unknown as { selfCheck: object };
  const carried = asFirst('streams-carried', 's');
  const rate = asFirst('decode-rate', 'd');
  const costs = asFirst('calibration', 'c');
  const ramp = asFirst('ramp', 'r');
  const [record] = sampleTrial('decode-rate', 'd', most).recorded!.records!;
  const settings = (trial: { settings: object }, kind: string) => ({ ...trial.settings, kind });
  const { trials } = parseBundle(
    JSON.stringify({
      ...sampleBundle([]),
      version: 1,
      trials: undefined,
      playback: [
        {
          ...check.trial,
          slotCount: 3,
          charges: 'AQID',
          summary: checked,
          selfCheck,
          trace: [{ fromSlot: 0, slots: 3, data: 'AAAA' }],
        },
      ],
      storage: [
        {
          ...carried.trial,
          kind: 'streams',
          volumeId: 'v',
          settings: settings(carried.trial, 'streams'),
          rampStreams: [1, 2],
          result: { kind: 'streams', summary: carried.summary },
        },
      ],
      decode: [
        {
          ...rate.trial,
          kind: 'rate',
          settings: settings(rate.trial, 'rate'),
          record: record!.record,
          result: { ...rate.summary, kind: 'rate' },
        },
      ],
      timelineTests: [
        {
          ...costs.trial,
          kind: 'costs',
          settings: settings(costs.trial, 'costs'),
          result: { kind: 'costs', costs: costs.summary },
        },
        { ...ramp.trial, result: { kind: 'ramp', ramp: ramp.summary } },
        { ...asFirst('scrub', 'x').trial, result: null },
      ],
    }),
  );
  expect(trials.map(({ id, kind }) => [id, kind])).toEqual([
    ['p', 'self-check'],
    ['s', 'streams-carried'],
    ['d', 'decode-rate'],
    ['c', 'calibration'],
    ['r', 'ramp'],
    ['x', 'scrub'],
  ]);
  expect(trials.map(({ summary }) => summary)).toEqual([
    check.summary,
    carried.summary,
    { ...rate.summary, kind: 'decode-rate' },
    costs.summary,
    ramp.summary,
    null,
  ]);
  expect(trials[0]).toMatchObject({
    progress: { slotCount: 3 },
    recorded: { charges: [{ charges: 'AQID' }], traces: [{ data: 'AAAA' }] },
  });
  expect(trials[1]).toMatchObject({
    volumeIds: ['v'],
    recorded: { records: [{ record: { streams: [1, 2] } }] },
  });
  expect(trials[2]).toMatchObject({ recorded: { records: [record] } });
  expect(trials.some((one) => 'result' in one || 'place' in one)).toBe(false);
});

test.each([
  [{ playback: [{ ...played, trace: [7] }] }, 'playback[0].trace[0] must be an object'],
  [{ decode: [{ ...played, kind: '' }] }, 'decode[0].kind must be one of'],
  [{ storage: [{ ...played, kind: 'copy' }] }, 'storage[0].'],
  [{ playback: [{ ...played, result: {}, settings: { scale: 'huge' } }] }, 'playback[0].settings'],
  [{ timelineTests: 7 }, 'timelineTests must be a list'],
])('what is wrong in a bundle of the first version is named with its place there: %#', (lists, message) => {
  const text = JSON.stringify({ ...sampleBundle([]), version: 1, trials: undefined, ...lists });
  expect(() => parseBundle(text)).toThrow(BundleError);
  expect(() => parseBundle(text)).toThrow(message);
});

const whole = () =>
  sampleBundle([sampleTrial('playback', 't1', most, { planId: 'p1', planCell: 0 })], {
    looks: [sampleLook('l1')],
    timelines: [sampleTimeline('tl1', 'l1'), sampleTimeline('tl2')],
    plans: [samplePlan('p1', most, ['t1']), samplePlan('p2', wild(4))],
  });

test('timelines, looks, series and matrices come back as they went out, proved by their hashes', () => {
  const bundle = whole() as unknown as ReturnType<typeof parseBundle>;
  const found = parseBundle(JSON.stringify(bundle));
  for (const list of ['looks', 'timelines', 'plans', 'trials', 'volumes'] as const)
    expect(found[list]).toEqual(bundle[list]);
  expect(found.hashes).toEqual(bundle.hashes);
  expect(found.version).toBe(3);
  // Written otherwise it is the same: other orders of fields, spaces and forms of figures.
  const turned = (value: unknown): unknown =>
    Array.isArray(value)
      ? value.map(turned)
      : isRecord(value)
        ? Object.fromEntries(
            Object.entries(value)
              .toReversed()
              .map(([name, of]) => [name, turned(of)]),
          )
        : value;
  expect(
    parseBundle(JSON.stringify(turned(bundle), null, 3).replace(/: 192\b/g, ': 1.92e2')).timelines,
  ).toEqual(found.timelines);
});

/** All values of a document that hold no others, each with a way to change it. */
function* leavesOf(value: unknown, path: readonly string[] = []): Generator<readonly string[]> {
  if (typeof value !== 'object' || value === null) yield path;
  else for (const [name, inner] of Object.entries(value)) yield* leavesOf(inner, [...path, name]);
}

const touched = (value: unknown) =>
  typeof value === 'number' ? -value - 1 : typeof value === 'boolean' ? !value : `${String(value)}x`;

test('whatever is changed on the way is found, at its place', () => {
  const bundle = whole();
  const leaves = [...leavesOf(bundle)].filter(([first]) => first !== 'format' && first !== 'version');
  expect(leaves.length).toBeGreaterThan(300);
  const kept: string[] = [];
  for (const path of leaves) {
    const other = structuredClone(bundle);
    let owner = other;
    for (const name of path.slice(0, -1)) owner = owner[name] as Record<string, unknown>;
    const last = path.at(-1) as string;
    owner[last] = touched(owner[last]);
    try {
      parseBundle(JSON.stringify(other));
      kept.push(path.join('.'));
    } catch (error) {
      if (!(error instanceof BundleError)) throw error;
    }
  }
  expect(kept).toEqual([]);
});

test.each<[string, (bundle: Record<string, unknown>) => void, string]>([
  ['a trial is left out', (bundle) => (bundle.trials = []), 'trials is not what was exported'],
  [
    'a trial is left out with its hash',
    (bundle) => {
      bundle.trials = [];
      (bundle.hashes as { trials: unknown }).trials = [];
    },
    'The bundle is not what was exported',
  ],
  [
    'timelines change places',
    (bundle) => (bundle.timelines as unknown[]).reverse(),
    'timelines[0] is not what was exported',
  ],
  [
    'a field is added to the head',
    (bundle) => (bundle.more = 1),
    'The bundle is not what was exported: its hash is another',
  ],
  ['the hashes are left out', (bundle) => delete bundle.hashes, 'The bundle must have “hashes”'],
])('%s: it is told', (_, change, message) => {
  const bundle = whole();
  change(bundle);
  expect(() => parseBundle(JSON.stringify(bundle))).toThrow(message);
});

test.each<[object, string]>([
  [{ timelines: [sampleTimeline('a'), sampleTimeline('a')] }, 'timelines[1].id appears twice'],
  [{ plans: [{ ...samplePlan('p', most), status: 'running' }] }, 'plans[0].status must be one of'],
  [
    { plans: [{ ...samplePlan('p', most, ['t']), cells: [] }] },
    'plans[0].steps[0].cell must be the number of a cell of this plan',
  ],
  [
    {
      timelines: [
        { ...sampleTimeline('a'), document: { ...sampleTimeline('a').document, rate: { num: 0, den: 1 } } },
      ],
    },
    'timelines[0].document: ',
  ],
  [{ looks: [{ id: 'l', name: 'Look', cube: 7 }] }, 'looks[0].cube must be text'],
])('what hangs together badly is named with its place, hashes right or not: %#', (change, message) => {
  expect(() => parseBundle(JSON.stringify(sampleBundle([], change)))).toThrow(message);
});

test('a bundle of the second version is read: it has no hashes, and nothing proves it', () => {
  const { hashes: _hashes, ...bundle } = sampleBundle([played]);
  const found = parseBundle(JSON.stringify({ ...bundle, version: 2 }));
  expect(found).toMatchObject({ version: 2, hashes: null, timelines: [], plans: [], trials: [played] });
});
