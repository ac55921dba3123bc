import { writeCube } from '@/core/formats/cube';
import { crossFade, setEffects, setSpeed } from '@/core/timeline/edits';
import { slotsAvailable } from '@/core/timeline/flatten';
import {
  emptyTimeline,
  endOf,
  wholePicture,
  type Effect,
  type EffectSettings,
  type Item,
  type MediaRef,
  type Source,
  type Timeline,
} from '@/core/timeline/model';
import { rational } from '@/core/time/rational';

/** Address of the demo's timeline. */
export const demoTimelineId = 'timeline-demo-reel-one';

/** The demo's look: dusk over the marsh, as a table of 17 points on each edge. */
export const demoLook = {
  id: 'look-demo-dusk',
  name: 'Dusk over the marsh',
  dimensions: 3 as const,
  size: 17,
  cube: duskCube(),
};

function duskCube(): string {
  const size = 17;
  const values = new Float64Array(3 * size ** 3);
  for (let index = 0; index < size ** 3; index++) {
    const [r, g, b] = [index % size, Math.floor(index / size) % size, Math.floor(index / size / size)].map(
      (step) => step / (size - 1),
    ) as [number, number, number];
    const luma = 0.2126 * r + 0.7152 * g + 0.0722 * b;
    // Shadows lean to blue, lights to amber.
    values.set(
      [r * 0.94 + 0.06 * luma + 0.05 * luma, g * 0.96 + 0.02 * luma, b * 0.9 + 0.07 * (1 - luma)].map(
        (value) => Math.min(1, Math.max(0, value)),
      ),
      index * 3,
    );
  }
  return writeCube({
    shaper: null,
    title: 'Dusk over the marsh',
    dimensions: 3,
    size,
    domainMin: [0, 0, 0],
    domainMax: [1, 1, 1],
    values,
  });
}

/** The clips of the demo as its timelines use them. */
export interface DemoMedia {
  readonly wall: MediaRef;
  readonly uhd: MediaRef;
  readonly marsh: MediaRef;
  readonly kite: MediaRef;
  readonly still: MediaRef | null;
}

const effect = (id: string, settings: EffectSettings): Effect => ({ id, on: true, ...settings });
const grade = (id: string): Effect[] => [
  effect(`${id}-wb`, { kind: 'white-balance', gains: [1.04, 1, 0.97] }),
  effect(`${id}-lgg`, {
    kind: 'lift-gamma-gain',
    lift: [0.01, 0.01, 0.02],
    gamma: [1.05, 1.03, 1],
    gain: [1, 0.98, 0.96],
  }),
  effect(`${id}-sat`, { kind: 'saturation', amount: 1.12 }),
];

const clip = (media: string, first: number): Source => ({
  kind: 'clip',
  media,
  in: first,
  speed: rational(1),
});

/** The first track: its items one behind the other, each at most so long as it is told and its media reach. */
function firstTrack(base: Timeline, clips: DemoMedia): Item[] {
  const used: Item[] = [];
  const put = (id: string, name: string, source: Source, most: number) => {
    const length = Math.min(most, slotsAvailable(source, base));
    used.push({
      id,
      name,
      start: used.length > 0 ? endOf(used[used.length - 1] as Item) : 0,
      length,
      source,
      effects: [],
    });
  };
  put('kite-1', 'Kite over the wall', clip('kite', 10), 60);
  put('wall-1', 'Stones are set', clip('wall', 20), 72);
  put('marsh-1', 'Tide in the creek', clip('marsh', 5), 72);
  put(
    'angles-1',
    'Two cameras at the sluice',
    {
      kind: 'angles',
      angles: [
        { media: 'wall', in: 100 },
        { media: 'kite', in: 100 },
      ],
      switches: [
        { at: 0, angle: 0 },
        { at: 30, angle: 1 },
      ],
    },
    72,
  );
  if (clips.still)
    put(
      'still-1',
      'Chart of the harbour',
      { kind: 'still', media: 'still', from: wholePicture, to: { x: 0.3, y: 0.25, width: 0.4, height: 0.4 } },
      48,
    );
  put('uhd-1', 'The wall at low water', clip('uhd', 0), 60);
  return used;
}

const inset: Item = {
  id: 'pip-1',
  name: 'Kite, inset',
  start: 70,
  length: 60,
  source: clip('kite', 90),
  effects: [
    effect('pip-place', {
      kind: 'transform',
      crop: wholePicture,
      place: { x: 0.62, y: 0.06, width: 0.33, height: 0.33 },
      opacity: 1,
    }),
    effect('pip-blur', { kind: 'blur', radius: 0.004 }),
  ],
};

const title: Item = {
  id: 'title-1',
  name: 'Title',
  start: 12,
  length: 48,
  source: { kind: 'title' },
  effects: [effect('title-text', { kind: 'title', text: 'Tidewrack', size: 0.14, x: 0.5, y: 0.8 })],
};

/** Reel one of Tidewrack: three tracks with a grade, a look, a picture in a picture, two cameras side by side, a still, a title and a speed change. */
export function reelOne(clips: DemoMedia): Timeline {
  const base: Timeline = {
    ...emptyTimeline('Tidewrack, reel one', rational(24), 1920, 1080),
    startTimecode: '01:00:00:00',
    media: {
      wall: clips.wall,
      uhd: clips.uhd,
      marsh: clips.marsh,
      kite: clips.kite,
      ...(clips.still ? { still: clips.still } : {}),
    },
  };
  let timeline: Timeline = {
    ...base,
    tracks: [
      { id: 'v1', name: 'V1', on: true, items: firstTrack(base, clips) },
      { id: 'v2', name: 'V2', on: true, items: [inset] },
      { id: 'v3', name: 'V3', on: true, items: [title] },
    ],
    markers: [{ id: 'k1', at: 132, name: 'Tide turns' }],
  };
  timeline = crossFade(timeline, 'wall-1', 12);
  timeline = setSpeed(timeline, 'marsh-1', rational(1, 2));
  timeline = setEffects(timeline, 'wall-1', grade('wall'));
  timeline = setEffects(timeline, 'marsh-1', [
    effect('marsh-look', { kind: 'lut', lookId: demoLook.id, name: demoLook.name }),
  ]);
  return setEffects(timeline, 'uhd-1', grade('uhd'));
}
