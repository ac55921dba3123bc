import { identity, object, string } from '../edge/strict';
import type { HashListForm } from '../formats/hashLists/read';
import { verificationSentence } from '../sentences/storage';
import type { VerificationResult } from '../storage/heldAgainst';
import type { KindFacts } from './kind';
import { rate } from './shared/metrics';
import { storagePage, storageUnder, type StorageShape } from './shared/storage';

export interface VerificationSettings {
  readonly kind: 'verification';
  /** Folder below the volume that the list is of; empty for all of it. */
  readonly folder: string;
  readonly list: {
    /** Of the list as it is kept here. */
    readonly id: string;
    readonly name: string;
    readonly form: HashListForm;
    readonly files: number;
    readonly createdAt: string | null;
    readonly by: string | null;
  };
}

export const verificationInput = object({
  volumeId: identity().required('Choose the volume that holds the copy.'),
  folder: string().trim().default(''),
  listId: identity().required('Choose the hash list.'),
}).noUnknown();

/** A folder held against a hash list. */
export interface Verification extends StorageShape {
  readonly settings: VerificationSettings;
  readonly record: never;
  readonly summary: VerificationResult;
}

export const verification: KindFacts<Verification> = {
  name: 'Verification',
  page: storagePage,
  names: ({ subject: { volumeName }, settings: { folder, list } }) => ({
    subject: folder === '' ? volumeName : folder,
    volumes: [volumeName],
    how: `against ${list.name}`,
  }),
  told: {
    folder: (folder) => ({ Folder: folder || 'all' }),
    list: ({ name, form }) => ({ List: `${name}, ${form}` }),
  },
  under: storageUnder,
  answer: ({ summary }) => verificationSentence(summary),
  overheadMs: 2_000,
  metrics: [rate('verified', 'Verified', 'MB/s')],
  values: ({ summary: { work, seconds } }) => ({
    verified: work.read.bytes > 0 && seconds > 0 ? work.read.bytes / seconds / 1e6 : null,
  }),
};
