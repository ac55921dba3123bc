import { array, boolean, identity, object, string } from '../edge/strict';
import { copySentence } from '../sentences/storage';
import type { CopyResult } from '../storage/copy';
import type { KindFacts } from './kind';
import { rate } from './shared/metrics';
import { storagePage, storageUnder, type StorageShape } from './shared/storage';

export interface CopySettings {
  readonly kind: 'copy';
  /** Folder below the source volume; empty for all of it. */
  readonly folder: string;
  readonly destinations: readonly {
    readonly volumeId: string;
    readonly volumeName: string;
    readonly folder: string;
    readonly simulated: boolean;
  }[];
  readonly verify: boolean;
}

export const copyInput = object({
  volumeId: identity().required('Choose the card.'),
  folder: string().trim().default(''),
  destinations: array(
    object({
      volumeId: identity().required('Choose a destination.'),
      folder: string().trim().required('Name the folder to copy into.'),
    }),
  )
    .min(1, 'Choose at least one destination.')
    .max(2, 'At most two destinations.')
    .required('Choose a destination.'),
  verify: boolean().default(true),
}).noUnknown();

/** A card's folder copied, and read back. */
export interface Copy extends StorageShape {
  readonly settings: CopySettings;
  readonly record: never;
  readonly summary: CopyResult;
}

export const copy: KindFacts<Copy> = {
  name: 'Copy',
  page: storagePage,
  names: ({ subject: { volumeName }, settings: { folder, destinations } }) => ({
    subject: folder === '' ? volumeName : folder,
    volumes: [volumeName, ...destinations.map((to) => to.volumeName)],
    how: `to ${destinations.map((to) => to.volumeName).join(' and ')}`,
  }),
  told: {
    folder: (folder) => ({ Folder: folder || 'all' }),
    destinations: (all) => ({
      Destinations: all.map(({ volumeName, folder }) => `${volumeName}, ${folder}`).join('; '),
    }),
    verify: (isOn) => ({ 'Read back': isOn ? 'yes' : 'no' }),
  },
  under: storageUnder,
  answer: ({ summary, verified }) => copySentence(summary, verified),
  overheadMs: 2_000,
  once: 'A card copy is not repeated: its files are there already. Copy into another folder instead.',
  metrics: [rate('copied', 'Copied', 'MB/s')],
  values: ({ summary }) => ({
    copied: summary.copied > 0 && summary.seconds > 0 ? summary.bytes / summary.seconds / 1e6 : null,
  }),
};
