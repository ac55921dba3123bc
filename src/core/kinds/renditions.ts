import { identity, number, object, string } from '../edge/strict';
import { fileName } from '../media/fileName';
import { presetName, renditionPresets, type RenditionChoice } from '../rendition/presets';
import { renditionsSentence } from '../sentences/renditions';
import { plainName } from '../simulated';
import type { KindFacts } from './kind';
import { clipIds } from './shared/asked';
import type { RigConditions } from './shared/conditions';
import { rate } from './shared/metrics';
import { aside } from './shared/told';

/** What a batch of renditions is made of and where it goes. */
export interface RenditionSubject {
  readonly volumeName: string;
  readonly simulated: boolean;
  /** Clips in the batch, and the name of the first. */
  readonly clips: number;
  readonly firstClip: string;
}

/** What a batch of renditions is made with. */
export interface RenditionSettings extends RenditionChoice {
  readonly volumeId: string;
  /** Folder below the volume. */
  readonly folder: string;
  /** Clips made at the same time; null measures which number is best. */
  readonly lanes: number | null;
}

export interface RenditionProgressNote {
  readonly framesDone: number;
  readonly framesTotal: number;
  readonly framesPerSecond: number;
  readonly msLeft: number | null;
  readonly note: string;
}

/** Rates with 1, 2, 3 ... clips at a time as measured on the first clips, frames per second. */
export interface LanesMeasured {
  readonly rates: readonly number[];
  readonly chosen: number;
}

export interface RenditionRecord {
  readonly lanes: LanesMeasured | null;
  /** Time at work over all parts of the batch, ms. */
  readonly workedMs: number;
}

export const renditionInput = object({
  clipIds,
  presetId: string()
    .oneOf(
      renditionPresets.map(({ id }) => id),
      'Choose a preset.',
    )
    .required('Choose a preset.'),
  raster: string()
    .oneOf(['full', 'half', 'quarter'] as const, 'Choose a raster.')
    .default('full'),
  volumeId: identity().required('Choose a volume.'),
  folder: string().trim().max(400, 'At most 400 characters.').default('proxies'),
  lanes: number()
    .typeError('Clips at a time must be a number.')
    .integer('The number must be whole.')
    .min(1, 'At least one at a time.')
    .max(64, 'At most 64 at a time.')
    .nullable()
    .default(null),
}).noUnknown();

/** How many clips of a batch of renditions came to what. */
export interface RenditionSummary {
  readonly items: number;
  readonly made: number;
  readonly present: number;
  readonly failed: number;
  /** Frames that were made, and the time at work on them; absent in batches from before they were kept. */
  readonly frames?: number;
  readonly workedMs?: number;
}

/** Clips made in another form. */
export interface Renditions {
  readonly subject: RenditionSubject;
  readonly settings: RenditionSettings;
  readonly conditions: RigConditions;
  readonly progress: RenditionProgressNote;
  readonly record: RenditionRecord;
  readonly summary: RenditionSummary;
}

const contentName = ({ firstClip, clips }: RenditionSubject) =>
  `${fileName(firstClip)}${clips > 1 ? ` and ${clips - 1} more` : ''}`;

export const renditions: KindFacts<Renditions> = {
  name: 'Renditions',
  page: '/media/renditions',
  names: ({ subject, settings }) => ({
    subject: contentName(subject),
    volumes: [subject.volumeName],
    how: presetName(settings.presetId),
  }),
  told: {
    presetId: (id) => ({ Preset: presetName(id) }),
    raster: (raster) => ({ Raster: raster }),
    volumeId: aside('told as the volume'),
    folder: (folder) => ({ Folder: folder || 'all' }),
    lanes: (lanes) => ({ 'Clips at a time': lanes === null ? 'as many as are best' : String(lanes) }),
  },
  under: ({ subject }) => ({
    Volume: plainName(subject.volumeName, subject.simulated),
    Content: contentName(subject),
  }),
  answer: ({ summary }) => renditionsSentence(summary),
  overheadMs: 3_000,
  once: 'Renditions are not made twice: their files are there already. Make them in another folder instead.',
  metrics: [rate('made', 'Frames made', 'frames/s')],
  values: ({ summary: { frames, workedMs } }) => ({
    made: frames && workedMs ? (frames * 1000) / workedMs : null,
  }),
};
