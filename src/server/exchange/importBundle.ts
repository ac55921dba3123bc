import { parseBundle, type ReadBundle } from '@/core/formats/bundle';
import { BundleError } from '@/core/formats/bundleError';
import { addResultRows, knownOf, removeRig, type Added, type ListedName } from '@/db/queries/bundles';
import { getRig } from '@/db/queries/rigs';
import { sha256 } from '@/engine/sha256';
import { RequestError } from '../platform/errors';
import { publish } from '../platform/events';
import { currentRigId } from '../platform/rig';
import { rowsFrom } from './bundleRows';
import { timelinesIn, type TimelinesIn } from './timelinesIn';

/** Entries of a list of a bundle: those that come in, and those that are here already and stay as they are. */
export interface Counted {
  readonly added: number;
  readonly known: number;
}

/** What a bundle holds, and what becomes of it here. */
export interface BundleReport extends Readonly<Record<ListedName, Counted>> {
  /** False where it was only read. */
  readonly stored: boolean;
  readonly rigId: string;
  readonly rigName: string;
  readonly simulated: boolean;
  /** Of the bundle. */
  readonly version: number;
  readonly exportedAt: string;
  readonly softwareVersion: string;
  /** Its hashes are right: nothing was changed since its export. Older versions have none. */
  readonly proved: boolean;
  /** What is not kept, or otherwise than it was there. */
  readonly notes: readonly string[];
}

const listedNames = ['trials', 'timelines', 'plans', 'looks'] as const satisfies readonly ListedName[];

/**
 * Reads a bundle, and takes it in where it is to be stored. What is there already stays as it is, so that a second import
 * changes nothing.
 * @throws RequestError with the place in the file that is wrong
 */
export async function importBundle(
  text: string,
  { store = true, demo = 0 }: { readonly store?: boolean; readonly demo?: number } = {},
): Promise<BundleReport> {
  const bundle = read(text);
  const there = await getRig(bundle.rig.id);
  // A rig that measures or measured into this database, and no imported one: its volumes are here under their own names.
  const here = await currentRigId();
  const isOwn = bundle.rig.id === here || (there !== null && there.imported === null);
  const simulated = (there?.imported?.simulated ?? false) || bundle.rig.simulated === true;
  const timelines = await timelinesIn(bundle, { isOwn, here, demo });
  const rows = rowsFrom(bundle, timelines, { isOwn, simulated, demo });
  const added = store ? await addResultRows(rows) : await wouldAdd(bundle);
  if (store) {
    await publish({ type: 'devices' });
    await publish({ type: 'plan', planId: '' });
  }
  const { version, exportedAt, softwareVersion: measuredBy, hashes } = bundle;
  return {
    stored: store,
    rigId: bundle.rig.id,
    rigName: there?.name ?? bundle.rig.name,
    simulated,
    version,
    exportedAt,
    softwareVersion: measuredBy,
    proved: hashes !== null,
    ...(Object.fromEntries(
      listedNames.map((name) => [name, { added: added[name], known: bundle[name].length - added[name] }]),
    ) as unknown as Record<ListedName, Counted>),
    notes: notesOn(bundle, timelines),
  };
}

async function wouldAdd(bundle: ReadBundle): Promise<Added> {
  const counts: Partial<Record<ListedName, number>> = {};
  for (const name of listedNames) {
    const ids = bundle[name].map(({ id }) => id);
    counts[name] = ids.length - (await knownOf(name, ids)).size;
  }
  return counts as Added;
}

function notesOn({ version, hashes }: ReadBundle, { missing, choices }: TimelinesIn): string[] {
  const media = (count: number) => (count === 1 ? '1 medium' : `${count} media`);
  return [
    ...(hashes === null
      ? [
          `The bundle is of version ${version}, which has no hashes: whether it was changed since its export cannot be told. Timelines and matrices did not go along then.`,
        ]
      : []),
    ...(missing > 0
      ? [
          `${media(missing)} of its timelines ${missing === 1 ? 'is' : 'are'} not in this library. Add the volumes that hold them and relink.`,
        ]
      : []),
    ...(choices > 0
      ? [`${media(choices)} of its timelines may be several files here. Choose in the timeline, under Media.`]
      : []),
  ];
}

function read(text: string): ReadBundle {
  try {
    return parseBundle(text, sha256);
  } catch (error) {
    if (error instanceof BundleError)
      throw new RequestError('bundle-unsound', { problem: error.message }, 'file');
    throw error;
  }
}

/** Forgets an imported rig and its results. @throws RequestError for this rig, whose results are its own */
export async function forgetRig(rigId: string): Promise<void> {
  if (rigId === (await currentRigId())) throw new RequestError('own-rig');
  const rig = await getRig(rigId);
  if (!rig?.imported) throw new RequestError('no-such-imported-rig');
  await removeRig(rigId);
  await publish({ type: 'devices' });
}
