import { none, quantity } from '../format';
import { boolean, number, object, string } from '../edge/strict';
import {
  choiceWords,
  exportCodecIds,
  exportCodecs,
  exportControls,
  exportPictures,
  exportSounds,
  exportSpeeds,
  type ExportChoice,
} from '../tasks/exportCodecs';
import { deviceName } from '../decode/standIns';
import type { WorkedIn } from '../playback/settings';
import type { KindFacts } from './kind';
import { prerendered, taskInput, whole } from './shared/asked';
import { taskFacts, taskNames, type TaskShape } from './shared/task';
import { aside, cacheTold, threadsTold, workedTold } from './shared/told';
import { taskSentence } from '../sentences/tasks';

/** How a timeline or clip is exported. */
export interface ExportSettings extends ExportChoice, WorkedIn {
  /** Device that encodes, by its id; null, or absent of older exports: software. */
  readonly device?: string | null;
  /** Folder of the result below the target volume, where it is kept. */
  readonly keep: boolean;
  /** Hold the pictures of the result against those handed to the encoder. */
  readonly likeness: boolean;
  /** Threads of decoders, effects and encoder; 0: one per core. */
  readonly threads: number;
  readonly warm: boolean;
}

const choiceFields = {
  codec: string().oneOf(exportCodecIds, 'Choose a codec.').required('Choose a codec.'),
  picture: string().oneOf(exportPictures, 'Choose depth and chroma.').required('Choose depth and chroma.'),
  control: string()
    .oneOf(exportControls, 'Choose what sets the size.')
    .required('Choose what sets the size.'),
  quality: number().typeError('Quality must be a number.').nullable().default(null),
  megabits: number()
    .typeError('The rate must be a number.')
    .min(0.1, 'At least 0.1 Mb/s.')
    .max(5_000, 'At most 5 000 Mb/s.')
    .nullable()
    .default(null),
  rateClass: string().max(40).nullable().default(null),
  keyDistance: whole('The key frame distance')
    .min(1, 'At least 1 frame.')
    .max(1_000, 'At most 1 000 frames.')
    .nullable()
    .default(null),
  speed: string().oneOf(exportSpeeds, 'Choose a speed.').nullable().default(null),
  sound: string().oneOf(exportSounds, 'Choose how sound is written.').default('none'),
};

export const exportInput = object({
  ...taskInput,
  prerendered,
  ...choiceFields,
  device: string().max(80, 'No device has so long an id.').nullable().default(null),
  keep: boolean().default(false),
  likeness: boolean().default(false),
}).noUnknown();

/** A way of writing that is kept under a name. */
export const deliveryInput = object({
  name: string().trim().max(80, 'A name has at most 80 characters.').required('Give the delivery a name.'),
  ...choiceFields,
}).noUnknown();

/** A timeline or clip made into a file. */
export interface Export extends TaskShape {
  readonly settings: ExportSettings;
}

export const exporting: KindFacts<Export> = {
  ...taskFacts,
  name: 'Export',
  names: ({ subject, settings }) => taskNames(subject, exportWords(settings)),
  told: {
    codec: (codec) => ({ Codec: exportCodecs[codec].name }),
    picture: (picture) => ({ 'Written as': picture }),
    control: (_, settings) => ({ 'Size set by': sizeWords(settings) }),
    quality: aside('told with what sets the size'),
    megabits: aside('told with what sets the size'),
    rateClass: aside('told with what sets the size'),
    keyDistance: (frames) => ({ 'Key frames': frames === null ? 'as is usual' : `every ${frames}` }),
    device: (device) => ({ Encoder: deviceName(device ?? null) }),
    speed: (speed) => ({ 'Encoder speed': speed ?? 'no choice' }),
    sound: (sound) => ({ Sound: sound === 'none' ? 'none' : sound.toUpperCase() }),
    keep: aside('what becomes of the file afterwards changes no figure'),
    likeness: aside('looked at after the time is taken'),
    threads: threadsTold,
    ...workedTold,
    warm: cacheTold,
  },
  answer: ({ summary }) => taskSentence('Exported', summary),
};

/** How an export is written and by what, in a few words. */
export function exportWords({ device = null, ...choice }: ExportSettings): string {
  return `${choiceWords(choice)}${device === null ? '' : `, on ${deviceName(device)}`}`;
}

function sizeWords({ codec, control, quality, megabits, rateClass }: ExportChoice): string {
  const { quality: range, classes } = exportCodecs[codec];
  return {
    quality: `${range?.name ?? 'quality'} ${quality}`,
    rate: quantity(megabits ?? none, 'Mb/s'),
    class: `class ${classes?.find(({ id }) => id === rateClass)?.name ?? rateClass}`,
    lossless: 'nothing: lossless',
  }[control];
}
