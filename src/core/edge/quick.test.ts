import { briefInput } from '../asked/briefs';
import { routes } from '../asked/routes';
import { timelineSaveInput } from '../asked/timelines';
import { trialInputs } from '../asked/trials';
import { viewerRequest } from '../asked/viewer';
import { emptyTimeline, wholePicture } from '../timeline/model';
import { rational } from '../time/rational';
import { quickly, undecided } from './quick';
import { ValidationError, type ISchema } from './strict';

const media = {
  clipId: 'clip-1',
  name: 'TW_WALL_0107.mov',
  reel: null,
  startTimecode: '01:00:00:00',
  contentHash: null,
  rate: rational(24),
  frames: 100,
  width: 1920,
  height: 1080,
};
const document = {
  ...emptyTimeline('Reel one', rational(24), 1920, 1080),
  markers: [{ id: 'm', at: 3, name: 'tide' }],
  media: { 'file:///b/TW WALL.mov': media },
  tracks: [
    {
      id: 'v1',
      name: 'V1',
      on: true,
      items: [
        {
          id: 'a',
          name: 'a',
          start: 0,
          length: 10,
          source: { kind: 'clip', media: 'file:///b/TW WALL.mov', in: 0, speed: rational(1) },
          effects: [
            { id: 'f', on: true, kind: 'white-balance', gains: [1, 1, 1] },
            { id: 'g', on: true, kind: 'transform', crop: wholePicture, place: wholePicture, opacity: 1 },
          ],
        },
        {
          id: 'b',
          name: 'b',
          start: 10,
          length: 10,
          source: {
            kind: 'angles',
            angles: [{ media: 'file:///b/TW WALL.mov', in: 0 }],
            switches: [{ at: 0, angle: 0 }],
          },
          effects: [],
        },
      ],
    },
  ],
};
const brief = {
  name: 'Tidewrack',
  question: '',
  cameras: [{ clipId: 'clip-1', name: 'Wall', hoursPerDay: 4 }],
  days: 12,
  streams: 2,
  looks: 1,
  scale: 'full',
  speed: 1,
  margin: 0.25,
  grade: 'workable',
  budget: null,
  places: [{ rigId: 'rig-1', volumeId: 'volume-1', price: null }],
  cardMegabytesPerSecond: null,
};

const values: readonly unknown[] = [
  undefined,
  null,
  true,
  0,
  -1,
  1.5,
  2 ** 60,
  1e308,
  Number.NaN,
  '',
  ' x ',
  'x\0',
  '__proto__',
  [],
  [1],
  {},
  { toString: 1 },
  { kind: 'title' },
];

type Place = readonly (string | number)[];
function* placesIn(value: unknown, place: Place = []): Generator<Place> {
  yield place;
  if (typeof value !== 'object' || value === null) return;
  for (const [key, inner] of Object.entries(value))
    yield* placesIn(inner, [...place, Array.isArray(value) ? Number(key) : key]);
}
function changed(value: unknown, [key, ...rest]: Place, to: unknown): unknown {
  if (key === undefined) return to;
  const copy = structuredClone(value) as Record<string | number, unknown>;
  copy[key] = changed(copy[key], rest, to);
  return copy;
}
/** What the schema itself says: the value, or that it is none. */
function asked(schema: ISchema<unknown>, value: unknown): unknown {
  try {
    return (schema as unknown as { validateSync: (value: unknown, how: object) => unknown }).validateSync(
      value,
      {
        stripUnknown: true,
      },
    );
  } catch (error) {
    if (error instanceof ValidationError) return 'refused';
    throw error;
  }
}

test.each<[string, ISchema<unknown>, object]>([
  ['a timeline', timelineSaveInput, { revision: 3, document, more: 1 }],
  [
    'a document of a viewer',
    viewerRequest,
    { type: 'document', document, read: 'originals', scale: 'half', cold: true },
  ],
  [
    'a command of a viewer',
    viewerRequest,
    { type: 'play', run: 1, from: 0, speed: 1, loop: { from: 0, to: 4 } },
  ],
  ['a brief', briefInput, brief],
])('a quick look at %s says what the schema says, whatever is changed, or nothing', (_, schema, whole) => {
  expect(quickly(schema, whole)).not.toBe(undecided);
  expect(quickly(schema, whole)).toEqual(asked(schema, whole));
  let decided = 0;
  for (const place of placesIn(whole))
    for (const value of values) {
      const sent = changed(whole, place, value);
      const quick = quickly(schema, sent);
      if (quick === undecided) continue;
      decided++;
      expect(quick).toEqual(asked(schema, sent));
    }
  expect(decided).toBeGreaterThan(8);
});

test('what is left out gets what is usual by the schema itself, and nothing fails in the quick look', () => {
  const bodies = [
    ...Object.values(routes).flatMap((route) => ('body' in route ? [route.body] : [])),
    ...Object.values(trialInputs),
  ];
  for (const schema of bodies as ISchema<unknown>[])
    for (const value of [...values, { name: 'x' }, { name: 'x', clipId: 'clip-1' }]) {
      const quick = quickly(schema, value);
      if (quick !== undecided) expect(quick).toEqual(asked(schema, value));
    }
});
