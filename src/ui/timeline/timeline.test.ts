import fc from 'fast-check';
import { soundState } from '@/core/playback/sound';
import { slotState } from '@/core/playback/slots';
import type { TimelineSubject } from '@/core/timeline/subject';
import { rational } from '@/core/time/rational';
import type { EffectKind } from '@/core/timeline/model';
import { clipItem, timelineOf } from '@/core/timeline/testing/testTimeline';
import type { TimelineTrial } from '@/db/kinds';
import { differencesOf } from './CompareScrubs';
import { controls, freshEffects, newId } from './effects';
import { layout, paintTimeline, timelineHeight, trackAt, trackTop, type TimelineInk } from './paintTimeline';
import { onTimeline } from './RunsView';
import { testWords } from './testWords';
import { nextSpeed } from './playheadCommands';
import { ViewerParser } from './useViewer';
import { rateFrom } from './words';

const ink: TimelineInk = {
  ground: '',
  surface: 'surface',
  raised: 'raised',
  line: 'selected',
  edge: '',
  ink: '',
  muted: '',
  signal: '',
  slot: '',
  hatch: 'missing',
};

/** A pen that writes down filled boxes of items and ignores the rest. */
function pen() {
  const filled: { x: number; width: number; ink: string }[] = [];
  const state: Record<string, unknown> = { fillStyle: '' };
  const fillRect = (x: number, _y: number, width: number) => {
    if (['raised', 'selected', 'missing'].includes(String(state.fillStyle)))
      filled.push({ x, width, ink: String(state.fillStyle) });
  };
  const target = new Proxy(state, {
    get: (own, key: string) =>
      key === 'fillRect'
        ? fillRect
        : key === 'measureText'
          ? () => ({ width: 10 })
          : key in own
            ? own[key]
            : () => undefined,
    set: (own, key: string, value: unknown) => {
      own[key] = value;
      return true;
    },
  });
  return { target: target as unknown as CanvasRenderingContext2D, filled };
}

const painted = { marks: { in: null, out: null }, timecodeAt: String };

test('items lie where their slots are, the chosen and the missing apart', () => {
  const { target, filled } = pen();
  const base = timelineOf([clipItem('a', 0, 50), clipItem('b', 60, 40, 0, { media: 'gone' })]);
  const timeline = { ...base, media: { ...base.media, gone: { ...base.media.m!, clipId: null } } };
  paintTimeline(
    target,
    { timeline, range: { from: 0, to: 100 }, selected: new Set(['a']), ...painted },
    1_000,
    ink,
  );
  expect(filled).toEqual([
    { x: 0, width: 500, ink: 'selected' },
    { x: 600, width: 400, ink: 'missing' },
  ]);
});

test('of five thousand items only what can be seen is drawn', () => {
  const timeline = timelineOf(Array.from({ length: 5_000 }, (_, at) => clipItem(`i${at}`, at * 10, 10)));
  const { target, filled } = pen();
  paintTimeline(
    target,
    { timeline, range: { from: 20_000, to: 20_100 }, selected: new Set(), ...painted },
    1_000,
    ink,
  );
  expect(filled.length).toBeLessThanOrEqual(14);
  const whole = pen();
  paintTimeline(
    whole.target,
    { timeline, range: { from: 0, to: 50_000 }, selected: new Set(), ...painted },
    1_000,
    ink,
  );
  expect(whole.filled.length).toBeLessThanOrEqual(1_400);
});

test('a height belongs to the track that is drawn there', () => {
  for (const tracks of [1, 3, 8]) {
    for (let index = 0; index < tracks; index++)
      expect(trackAt(trackTop(index, tracks) + layout.track / 2, tracks)).toBe(index);
    expect(trackAt(2, tracks)).toBeNull();
    expect(trackAt(timelineHeight(tracks) + 40, tracks)).toBeNull();
  }
});

test('J and L double the speed and turn it round', () => {
  expect([
    nextSpeed(0, 1),
    nextSpeed(1, 1),
    nextSpeed(4, 1),
    nextSpeed(8, 1),
    nextSpeed(8, -1),
    nextSpeed(-2, -1),
  ]).toEqual([1, 2, 8, 8, -1, -4]);
});

test('the viewer’s stream is read whole, however it is cut', () => {
  const record = (state: object, jpeg: number[]) => {
    const json = Buffer.from(JSON.stringify(state));
    const head = Buffer.alloc(8);
    head.writeUInt32LE(json.length, 0);
    head.writeUInt32LE(jpeg.length, 4);
    return Buffer.concat([head, json, Buffer.from(jpeg)]);
  };
  const bytes = Buffer.concat([
    record({ slot: 1 }, [9, 8, 7]),
    record({ slot: 2 }, []),
    record({ slot: 3 }, [1]),
  ]);
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 40 }), { minLength: 1, maxLength: 60 }), (sizes) => {
      const parser = new ViewerParser();
      const found: [number, number[] | null][] = [];
      for (let at = 0, part = 0; at < bytes.length; part++) {
        const size = sizes[part % sizes.length] as number;
        for (const { state, jpeg } of parser.push(bytes.subarray(at, at + size)))
          found.push([state.slot, jpeg && [...jpeg]]);
        at += size;
      }
      expect(found).toEqual([
        [1, [9, 8, 7]],
        [2, null],
        [3, [1]],
      ]);
    }),
  );
});

test('every control of every effect changes what it says and nothing else', () => {
  for (const kind of Object.keys(freshEffects) as EffectKind[]) {
    const effect = { id: 'e', on: true, ...freshEffects[kind] };
    for (const control of controls[kind]) {
      const changed = control.set(effect, control.most);
      expect(control.get(changed)).toBe(control.most);
      for (const other of controls[kind])
        if (other !== control) expect(other.get(changed)).toBe(other.get(effect));
    }
  }
  expect(newId('i')).not.toBe(newId('i'));
  expect(rateFrom('30000/1001')).toEqual({ num: 30_000, den: 1_001 });
});

const subject = (course: object): TimelineSubject => ({
  startTimecode: null,
  timeline: {
    id: 't',
    version: 1,
    name: 'Reel',
    rate: rational(24),
    width: 1,
    height: 1,
    slots: 10,
    read: 'originals',
    missing: [],
    media: {},
    course: { from: 0, slots: 10, speed: 1, ...course },
  },
});

test('a run’s slots lie at their places on the timeline, the worst of several', () => {
  const view = (states: number[]) => ({
    slots: states.length,
    state: Uint8Array.from(states),
    charge: Uint8Array.from(states, (state) => (state === slotState.dropped ? 4 : 0)),
    doubtful: new Uint8Array(states.length),
    sound: Uint8Array.from(states, (state) =>
      state === slotState.dropped ? soundState.underRun : soundState.ready,
    ),
  });
  const { shown, dropped, pending } = slotState;
  expect([...onTimeline(view([shown, dropped]), subject({ from: 3 })).state]).toEqual([
    pending,
    pending,
    pending,
    shown,
    dropped,
    pending,
    pending,
    pending,
    pending,
    pending,
  ]);
  expect(
    [...onTimeline(view([shown, dropped, shown]), subject({ from: 9, speed: -2 })).state].slice(5),
  ).toEqual([shown, pending, dropped, pending, shown]);
  const looped = onTimeline(
    view([dropped, shown, shown, shown]),
    subject({ from: 4, loop: { from: 4, to: 6 } }),
  );
  expect([looped.state[4], looped.charge[4], looped.state[5]]).toEqual([dropped, 4, shown]);
  // The worse of its sound, too.
  expect([...looped.sound!.subarray(3, 7)]).toEqual([
    soundState.silent,
    soundState.underRun,
    soundState.ready,
    soundState.silent,
  ]);
});

const scrubbed = (settings: object, media: object = {}) =>
  ({
    settings: {
      kind: 'scrub',
      scale: 'full',
      threads: 0,
      warm: false,
      gesture: { kind: 'shuttle', seed: 1, speed: -4 },
      ...settings,
    },
    subject: { ...subject({}), timeline: { ...subject({}).timeline, media } },
  }) as unknown as TimelineTrial;

test('trials on one plot say in what they differ', () => {
  expect(differencesOf([scrubbed({}), scrubbed({})])).toEqual([]);
  expect(differencesOf([scrubbed({}), scrubbed({ scale: 'half' })])).toEqual(['playback scale']);
  expect(
    differencesOf([
      scrubbed({}, { m: { contentHash: 'a', volumeId: 'v' } }),
      scrubbed({ warm: true }, { m: { contentHash: 'b', volumeId: 'v' } }),
    ]),
  ).toEqual(['media', 'cache']);
  expect(testWords(scrubbed({}))).toBe('shuttle 4x back, full scale');
  expect(testWords(scrubbed({ gesture: { kind: 'recorded', gestureId: 'g', name: 'over the cut' } }))).toBe(
    'recorded: over the cut, full scale',
  );
});
