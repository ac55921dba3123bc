import { array, boolean, mixed, number, object, string } from 'yup';
import { arrayLevels, type ArrayLevel } from '@/core/storage/array';
import type { ScriptedFault } from '@/core/storage/model';
import { trialKinds } from '@/core/kinds/kinds';
import { planForms, planOrders, planTests } from '@/core/plan/matrix';
import { grades } from '@/core/playback/grade';
import { clipIds, exactRate, scale } from '@/core/kinds/shared/asked';

/** Checks of what comes in from pages; shared by routes and forms. Messages say what to do. */
const atLeastZero = (what: string) =>
  number().typeError(`${what} must be a number.`).min(0, `${what} cannot be negative.`);
const isTime = (value: unknown) => typeof value === 'number' && value >= 0 && value <= 3_600;
const isPositive = (value: unknown) => typeof value === 'number' && value > 0;

/** Whether a value is a scripted fault with figures that can be. */
function isFault(value: Record<string, unknown>): boolean {
  switch (value.kind) {
    case 'drop-out':
      return isTime(value.atSeconds) && isPositive(value.seconds) && isTime(value.seconds);
    case 'slow-drive':
      return isTime(value.atSeconds) && isPositive(value.share) && (value.share as number) <= 1;
    case 'lower-link':
      return isTime(value.atSeconds) && isPositive(value.lineBitsPerSecond);
    case 'read-error':
      return isTime(value.atSeconds);
    case 'full':
      return typeof value.afterBytes === 'number' && value.afterBytes >= 0;
    case 'read-only':
      return true;
    default:
      return false;
  }
}

const standInInput = object({
  link: string().required('Choose a link.'),
  drive: string().required('Choose a drive.'),
  level: mixed<ArrayLevel>().oneOf(arrayLevels, 'Choose a level.').required('Choose a level.'),
  drives: number()
    .typeError('Drives must be a number.')
    .integer('Drives come whole.')
    .min(1, 'A stand-in has at least one drive.')
    .max(48, 'At most 48 drives.')
    .required('Say how many drives.'),
  cacheGigabytes: atLeastZero('The server cache').default(0),
  roundTripMs: atLeastZero('The round trip').nullable().default(null),
  depth: number()
    .typeError('Requests under way must be a number.')
    .integer()
    .min(1, 'At least one request is under way.')
    .max(1_024, 'At most 1024 requests under way.')
    .nullable()
    .default(null),
  jitterMs: atLeastZero('Jitter').default(0),
  othersMegabytesPerSecond: atLeastZero('What others take').default(0),
  fault: mixed<ScriptedFault>(
    (value): value is ScriptedFault =>
      typeof value === 'object' && value !== null && isFault(value as Record<string, unknown>),
  )
    .nullable()
    .typeError('The scripted fault has a figure that cannot be.')
    .default(null),
  seed: number().integer().default(1),
});

const volumeNotes = {
  link: string().trim().max(120, 'At most 120 characters.').default(''),
  notes: string().trim().max(1_000, 'At most 1000 characters.').default(''),
  price: atLeastZero('The price').nullable().default(null),
  cacheGigabytes: atLeastZero('The server cache').default(0),
  standIn: standInInput.nullable().default(null),
};

const volumeName = string()
  .trim()
  .min(1, 'Give the volume a name.')
  .max(120, 'A name has at most 120 characters.')
  .required('Give the volume a name.');

export const volumeChange = object({ name: volumeName, ...volumeNotes }).noUnknown();

export const cameraFormatInput = object({
  name: string()
    .trim()
    .min(1, 'Give the format a name.')
    .max(80, 'At most 80 characters.')
    .required('Give the format a name.'),
  raster: string().trim().max(20, 'At most 20 characters.').default(''),
  framesPerSecond: number()
    .typeError('The rate must be a number.')
    .moreThan(0, 'The rate must be above 0.')
    .max(1_000, 'At most 1000 frames per second.')
    .required('Give the frames per second.'),
  codecClass: string().trim().max(80, 'At most 80 characters.').default(''),
  bytesPerFrame: number()
    .typeError('Bytes per frame must be a number.')
    .integer('Bytes come whole.')
    .min(1, 'A frame has at least one byte.')
    .required('Give the bytes per frame.'),
  peakOverMean: number()
    .typeError('Peak over mean must be a number.')
    .min(1, 'The peak is at least the mean.')
    .max(20, 'At most 20 times the mean.')
    .default(1),
}).noUnknown();

export const volumeInput = object({
  name: volumeName,
  kind: string()
    .oneOf(
      ['internal', 'external', 'network', 'card'] as const,
      'Choose internal, external, network or card.',
    )
    .required('Choose a kind.'),
  path: string()
    .trim()
    .matches(/^\//, 'Give the folder as a full path that begins with /.')
    .required('Give the folder that holds the media.'),
  ...volumeNotes,
}).noUnknown();

export const rigInput = object({
  name: string()
    .trim()
    .min(1, 'Give the rig a name.')
    .max(80, 'A name has at most 80 characters.')
    .required('Give the rig a name.'),
}).noUnknown();

export const clipActionInput = object({
  action: string()
    .oneOf(['group', 'take-out', 'group-automatically', 'forget'] as const)
    .required('Say what to do.'),
  clipIds,
}).noUnknown();

const timelineName = string()
  .trim()
  .min(1, 'Give the timeline a name.')
  .max(200, 'A name has at most 200 characters.')
  .required('Give the timeline a name.');

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
  document: mixed<Record<string, unknown>>(
    (value): value is Record<string, unknown> =>
      typeof value === 'object' && value !== null && Array.isArray((value as { tracks?: unknown }).tracks),
  ).required('The timeline has no tracks.'),
});

export const timelineNameInput = object({ name: timelineName }).noUnknown();

export const importInput = object({
  fileName: string().trim().max(300).required('Choose a file.'),
  text: string().max(64e6, 'The file is larger than 64 MB.').required('The file is empty.'),
  rate: exactRate.default({ num: 24, den: 1 }),
}).noUnknown();

export const lookInput = object({
  name: string().trim().max(200).required('Choose a file.'),
  text: string().max(64e6, 'The file is larger than 64 MB.').required('The file is empty.'),
}).noUnknown();

export const loadInput = object({
  kind: string()
    .oneOf(['streams', 'grades', 'run-through', 'conform', 'worst-minute'] as const, 'Choose what to build.')
    .required('Choose what to build.'),
  clipIds: array(string().required())
    .max(500, 'At most 500 clips.')
    .default([])
    .when('kind', {
      is: (kind: string) => kind === 'streams' || kind === 'grades' || kind === 'run-through',
      then: (schema) => schema.min(1, 'Choose a clip.'),
    }),
  timelineId: string()
    .nullable()
    .default(null)
    .when('kind', {
      is: (kind: string) => kind === 'conform' || kind === 'worst-minute',
      then: (schema) => schema.required('Choose a timeline.'),
    }),
  count: number()
    .typeError('The number must be a number.')
    .integer('They come whole.')
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
  slots: number().integer().min(2, 'There is nothing to scrub over.').required(),
  timesMs: array(number().min(0).required()).max(20_000).required(),
  targets: array(number().integer().min(0).required()).max(20_000).required(),
}).noUnknown();

const planName = string().trim().max(200, 'A name has at most 200 characters.').default('');
const repeats = number()
  .typeError('Repeats must be a number.')
  .integer('Repeats come whole.')
  .min(1, 'At least one repeat.')
  .max(100, 'At most 100 repeats.');
const mostMadeUp = number()
  .typeError('Runs for those in doubt must be a number.')
  .integer('Runs come whole.')
  .min(0, 'Runs for those in doubt are 0 or more.')
  .max(20, 'At most 20 more runs.')
  .default(0);

export const planInput = object({
  name: planName,
  question: string().max(40).default('own'),
  subjects: array(
    object({
      kind: string()
        .oneOf(['clip', 'timeline'] as const)
        .required(),
      id: string().required(),
    }),
  )
    .max(500, 'At most 500 clips and timelines.')
    .default([]),
  volumeIds: array(string().required()).max(50, 'At most 50 volumes.').default([]),
  forms: array(string().oneOf(planForms, 'Choose originals or proxies.').required())
    .min(1, 'Choose originals, proxies or both.')
    .required('Choose originals, proxies or both.')
    .default(['originals']),
  scales: array(scale.required())
    .min(1, 'Choose at least one playback scale.')
    .required('Choose at least one playback scale.')
    .default(['full']),
  tests: array(string().oneOf(planTests, 'Choose a test.').required())
    .min(1, 'Choose at least one test.')
    .required('Choose at least one test.'),
  repeats: repeats.default(3),
  mostMadeUp,
  order: string().oneOf(planOrders, 'Choose interleaved or random.').default('interleaved'),
  seed: number()
    .typeError('The seed must be a number.')
    .integer('The seed is a whole number.')
    .min(0)
    .max(4_294_967_295)
    .default(1),
  warm: boolean().default(false),
  policy: string()
    .oneOf(['hold-time', 'every-frame'] as const, 'Choose hold time or every frame.')
    .default('hold-time'),
}).noUnknown();

export const seriesInput = object({
  trialId: string().required('Choose a trial.'),
  repeats: repeats.default(5),
  mostMadeUp,
}).noUnknown();

export const planActionInput = object({
  action: string()
    .oneOf(
      ['pause', 'resume', 'cancel', 'skip', 'skip-cell', 'repeat-doubtful', 'repeat-failed'] as const,
      'Say what to do.',
    )
    .required('Say what to do.'),
  /** Of `skip` (a run) and `skip-cell`. */
  position: number().integer().min(0).nullable().default(null),
  cell: number().integer().min(0).nullable().default(null),
}).noUnknown();

export const cancelWaitingInput = object({
  kinds: array(string().oneOf(trialKinds).required()).required('Say which kinds of trials.'),
}).noUnknown();

export const annotationInput = object({
  note: string().trim().max(2_000, 'At most 2000 characters.').default(''),
  /** Why the result does not count; null counts it. */
  excluded: string()
    .trim()
    .min(1, 'Say why it does not count.')
    .max(400, 'At most 400 characters.')
    .nullable()
    .default(null),
}).noUnknown();

export const briefInput = object({
  name: string()
    .trim()
    .min(1, 'Give the job a name.')
    .max(200, 'A name has at most 200 characters.')
    .required('Give the job a name.'),
  question: string().trim().max(1_000, 'At most 1000 characters.').default(''),
  cameras: array(
    object({
      clipId: string().required('Choose a clip for the camera.'),
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
  streams: number()
    .typeError('Streams must be a number.')
    .integer('Streams come whole.')
    .min(1, 'At least one stream.')
    .max(32, 'At most 32 streams.')
    .default(1),
  looks: number()
    .typeError('Grades must be a number.')
    .integer('Grades come whole.')
    .min(0, 'Grades cannot be negative.')
    .max(16, 'At most 16 grades.')
    .default(0),
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
      rigId: string().required(),
      volumeId: string().required('Choose a volume.'),
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
  cells: array(object({ rowId: string().required(), volumeId: string().required() }))
    .min(1, 'Choose a cell.')
    .max(500, 'At most 500 cells.')
    .nullable()
    .default(null),
}).noUnknown();
