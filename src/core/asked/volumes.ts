/** Volumes, stand-ins and camera formats as they are asked for. Messages say what to do. */
import { whole } from '../kinds/shared/asked';
import { mixed, number, object, string } from '../edge/strict';
import { atLeastZero } from './fields';
import { arrayLevels, type ArrayLevel } from '../storage/array';
import type { ScriptedFault } from '../storage/model';

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
  drives: whole('Drives')
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
    .integer('Bytes must be a whole number.')
    .min(1, 'A frame has at least one byte.')
    .required('Give the bytes per frame.'),
  peakOverMean: number()
    .typeError('Peak over mean must be a number.')
    .min(1, 'The peak is at least the mean.')
    .max(20, 'At most 20 times the mean.')
    .default(1),
}).noUnknown();
