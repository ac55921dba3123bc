/** What is asked of a rig, of clips and of results. Messages say what to do. */
import { array, object, string, type InferType } from '../edge/strict';
import { clipIds, exactRate } from '../kinds/shared/asked';
import { trialKinds } from '../kinds/kinds';
import { folderLeadsOut, leadsOut } from '../media/folder';

export const rigInput = object({
  name: string()
    .trim()
    .min(1, 'Give the rig a name.')
    .max(80, 'A name has at most 80 characters.')
    .required('Give the rig a name.'),
  /** What money is counted in (ISO 4217); null leaves it. */
  currency: string()
    .matches(/^[A-Z]{3}$/, 'Give the currency by its three letters, as EUR.')
    .nullable()
    .default(null),
}).noUnknown();

export const clipActionInput = object({
  action: string()
    .oneOf(['group', 'take-out', 'group-automatically', 'forget'] as const)
    .required('Say what to do.'),
  clipIds,
}).noUnknown();

/** The rate of a clip whose files state none. */
export const clipChange = object({ rate: exactRate.required('Choose a rate.') }).noUnknown();

export type ClipAction = InferType<typeof clipActionInput>['action'];

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

export const cancelWaitingInput = object({
  kinds: array(string().oneOf(trialKinds).required()).required('Say which kinds of trials.'),
}).noUnknown();

/** The files of the library that can be played, as its list is asked for. */
export const playableFiles = { by: 'file', state: 'ready' } as const;

/** An upload as it is chosen. What the file is told by its ending and its bytes, when they come. */
export const uploadInput = object({
  file: string().required('Choose a file first.'),
  volumeId: string().required('Choose a volume.'),
  folder: string()
    .trim()
    .default('')
    .test('below', folderLeadsOut, (folder) => !leadsOut(folder)),
}).noUnknown();
