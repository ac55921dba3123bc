/** Timelines, looks and gestures as they are asked for. Messages say what to do. */
import { array, boolean, identity, number, object, record, string } from '../edge/strict';
import { mostSlots } from '../timeline/model';
import { timelineName, timelineSchema } from '../timeline/schema';
import { exactRate } from '../kinds/shared/asked';

export const timelineInput = object({
  name: timelineName,
  rate: exactRate.required('Choose a rate.'),
  width: number()
    .typeError('The width must be a number.')
    .integer()
    .min(16, 'At least 16 pixels wide.')
    .max(16_384, 'At most 16384 pixels wide.')
    .required('Give the width.'),
  height: number()
    .typeError('The height must be a number.')
    .integer()
    .min(16, 'At least 16 pixels high.')
    .max(16_384, 'At most 16384 pixels high.')
    .required('Give the height.'),
}).noUnknown();

export const timelineSaveInput = object({
  revision: number().integer().min(1).required(),
  document: timelineSchema,
});

export const timelineNameInput = object({ name: timelineName }).noUnknown();

export const importInput = object({
  fileName: string().trim().max(300).required('Choose a file.'),
  text: string().max(64e6, 'The file is larger than 64 MB.').required('The file is empty.'),
  rate: exactRate.default({ num: 24, den: 1 }),
  /** False: it is read and what would be lost is told, and nothing is kept. */
  store: boolean().default(true),
  /** Clips that were chosen for media that several match, by the ids of the media in the file. */
  chosen: record(identity().required(), {
    most: 20_000,
    isName: (name) => name.length > 0 && name.length <= 2_000,
  }).default({}),
}).noUnknown();

export const lookInput = object({
  name: string().trim().max(200).required('Choose a file.'),
  text: string().max(64e6, 'The file is larger than 64 MB.').required('The file is empty.'),
}).noUnknown();

/** Most clips in one test load. */
export const mostClips = 500;

export const loadInput = object({
  kind: string()
    .oneOf(['streams', 'grades', 'run-through', 'conform', 'worst-minute'] as const, 'Choose what to build.')
    .required('Choose what to build.'),
  /** Of a run-through none stands for all that can be played, each content once. */
  clipIds: array(identity().required())
    .max(mostClips, `At most ${mostClips} clips.`)
    .default([])
    .when('kind', {
      is: (kind: string) => kind === 'streams' || kind === 'grades',
      then: (schema) => schema.min(1, 'Choose a clip.'),
    }),
  timelineId: identity()
    .nullable()
    .default(null)
    .when('kind', {
      is: (kind: string) => kind === 'conform' || kind === 'worst-minute',
      then: (schema) => schema.required('Choose a timeline.'),
    }),
  count: number()
    .typeError('The number must be a number.')
    .integer('The number must be whole.')
    .min(1, 'At least one.')
    .max(64, 'At most 64.')
    .default(4),
  seconds: number()
    .typeError('Give the time as a number.')
    .min(0.5, 'At least half a second.')
    .max(3_600, 'At most an hour.')
    .nullable()
    .default(null),
  rate: exactRate.nullable().default(null),
}).noUnknown();

export const gestureInput = object({
  name: string()
    .trim()
    .min(1, 'Give the gesture a name.')
    .max(120, 'At most 120 characters.')
    .required('Give the gesture a name.'),
  slots: number().integer().min(2, 'There is nothing to scrub over.').max(mostSlots).required(),
  timesMs: array(number().min(0).required()).max(20_000).required(),
  targets: array(number().integer().min(0).required()).max(20_000).required(),
}).noUnknown();
