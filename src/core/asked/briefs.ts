/** Briefs as they are asked for. Messages say what to do. */
import { array, identity, number, object, string } from '../edge/strict';
import { atLeastZero } from './fields';
import { grades } from '../playback/grade';
import { scale, whole } from '../kinds/shared/asked';

export const briefInput = object({
  name: string()
    .trim()
    .min(1, 'Give the job a name.')
    .max(200, 'A name has at most 200 characters.')
    .required('Give the job a name.'),
  question: string().trim().max(1_000, 'At most 1000 characters.').default(''),
  cameras: array(
    object({
      clipId: identity().required('Choose a clip for the camera.'),
      name: string()
        .trim()
        .min(1, 'Give the camera a name.')
        .max(80, 'At most 80 characters.')
        .required('Give the camera a name.'),
      hoursPerDay: number()
        .typeError('Hours must be a number.')
        .moreThan(0, 'A camera brings some of the day.')
        .max(24, 'A day has 24 hours; enter several cameras apart.')
        .required('Give the hours a day.'),
    }),
  )
    .min(1, 'Choose at least one camera.')
    .max(30, 'At most 30 cameras.')
    .required('Choose at least one camera.'),
  days: number()
    .typeError('Days must be a number.')
    .min(0.5, 'At least half a day.')
    .max(10_000, 'At most 10 000 days.')
    .required('Give the days.'),
  streams: whole('Streams').min(1, 'At least one stream.').max(32, 'At most 32 streams.').default(1),
  looks: whole('Grades').min(0, 'Grades cannot be negative.').max(16, 'At most 16 grades.').default(0),
  scale: scale.default('full'),
  speed: number().oneOf([1, 2, 4, 8], 'Choose 1, 2, 4 or 8 times.').default(1),
  margin: number()
    .typeError('The margin must be a number.')
    .min(0, 'The margin cannot be negative.')
    .max(10, 'At most ten times the rate.')
    .default(0.25),
  grade: string().oneOf(grades, 'Choose a grade.').default('workable'),
  budget: atLeastZero('The budget').nullable().default(null),
  places: array(
    object({
      rigId: identity().required(),
      volumeId: identity().required('Choose a volume.'),
      price: atLeastZero('The price').nullable().default(null),
    }),
  )
    .min(1, 'Choose at least one volume.')
    .max(40, 'At most 40 volumes.')
    .required('Choose at least one volume.'),
  cardMegabytesPerSecond: number()
    .typeError('The card rate must be a number.')
    .moreThan(0, 'The card rate must be above 0.')
    .nullable()
    .default(null),
}).noUnknown();

export const measureInput = object({
  /** Null: every unknown cell of this rig. */
  cells: array(object({ rowId: identity().required(), volumeId: identity().required() }))
    .min(1, 'Choose a cell.')
    .max(500, 'At most 500 cells.')
    .nullable()
    .default(null),
}).noUnknown();
