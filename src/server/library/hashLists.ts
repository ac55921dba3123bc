import { lstat, type FileHandle } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { mostListCharacters, type hashListInput } from '@/core/asked/hashLists';
import type { InferType } from '@/core/edge/strict';
import type { HashName } from '@/core/formats/hashLists/hashes';
import {
  HashListError,
  readHashes,
  type HashListForm,
  type ListedFile,
  type ReadHashes,
} from '@/core/formats/hashLists/read';
import { listClips } from '@/db/queries/clips';
import { getHashList, saveHashList } from '@/db/queries/storageRecords';
import { listTrials } from '@/db/queries/trials';
import type { VolumeRow } from '@/db/queries/volumes';
import { fileError } from '@/engine/errors';
import { openInPlace } from '@/engine/inPlace';
import { sha256 } from '@/engine/sha256';
import { findLists, folderOfList, type FoundList } from '@/engine/storage/findLists';
import { assertInside } from '@/engine/volume';
import { RequestError } from '../platform/errors';
import { plainFolder } from '../platform/paths';
import { currentRigId } from '../platform/rig';
import { requireVolume, volumesOfRig } from './library';

/** A folder that a list may be of. */
export interface ListPlace {
  readonly volumeId: string;
  readonly volumeName: string;
  readonly simulated: boolean;
  readonly folder: string;
  /** Of some files that the list names, how many lie there. */
  readonly found: number;
  readonly of: number;
}

/** What is in a hash list, and where what it names may lie. */
export interface HashListReport {
  /** Of the list as it is kept; null where it was only read. */
  readonly id: string | null;
  readonly name: string;
  readonly form: HashListForm;
  readonly createdAt: string | null;
  readonly by: string | null;
  readonly files: number;
  /** Null where it does not say them all. */
  readonly bytes: number | null;
  readonly folders: number;
  readonly hashes: readonly HashName[];
  /** What was read and is not taken. */
  readonly notes: readonly string[];
  /** The likeliest first. */
  readonly places: readonly ListPlace[];
}

/** Reads a hash list, and keeps it where it is to be stored. @throws RequestError with the line that is wrong */
export async function takeHashList(input: InferType<typeof hashListInput>): Promise<HashListReport> {
  const { volume, name, text, folder } = await listText(input);
  const list = parsed(text, name);
  const id = sha256(text);
  if (input.store) await saveHashList({ id, name, text });
  const sizes = list.files.map(({ bytes }) => bytes);
  return {
    id: input.store ? id : null,
    name,
    form: list.form,
    createdAt: list.createdAt,
    by: list.by,
    files: list.files.length,
    bytes: sizes.includes(null) ? null : sizes.reduce<number>((sum, bytes) => sum + (bytes ?? 0), 0),
    folders: list.folders.length,
    hashes: [...new Set(list.files.flatMap(({ hashes }) => hashes.map((hash) => hash.name)))],
    notes: list.notes,
    places: await placesOf(list, volume, folder),
  };
}

function parsed(text: string, name: string): ReadHashes {
  try {
    return readHashes(text, name);
  } catch (error) {
    if (!(error instanceof HashListError)) throw error;
    throw new RequestError('file-unreadable', { name, problem: error.message }, 'text');
  }
}

/** A kept list. @throws RequestError when it is gone */
export async function requireHashList(id: string): Promise<{ name: string; list: ReadHashes }> {
  const row = await getHashList(id);
  if (!row) throw new RequestError('no-such-hash-list', {}, 'listId');
  return { name: row.name, list: parsed(row.text, row.name) };
}

interface ListText {
  readonly name: string;
  readonly text: string;
  /** Where it lies, and the folder that it is of there; null where it was sent. */
  readonly volume: VolumeRow | null;
  readonly folder: string | null;
}

async function listText({ name, text, volumeId, path }: InferType<typeof hashListInput>): Promise<ListText> {
  if (text !== null) return { name: name || 'hash list', text, volume: null, folder: null };
  if (volumeId === null || path === null) throw new RequestError('no-hash-list-given', {}, 'text');
  const volume = await requireVolume(volumeId);
  const below = plainFolder(path, 'path');
  const whole = join(volume.path, below);
  await assertInside(volume.path, whole);
  let handle: FileHandle | null = null;
  try {
    handle = await openInPlace(whole);
    const { size } = await handle.stat();
    if (size > mostListCharacters) throw new RequestError('too-large', { bytes: mostListCharacters }, 'path');
    return {
      name: basename(below),
      text: await handle.readFile('utf8'),
      volume,
      folder: folderOfList(below),
    };
  } catch (error) {
    throw error instanceof RequestError ? error : fileError(error, below);
  } finally {
    await handle?.close();
  }
}

/** Files that are looked for in each place: enough to tell places apart. */
const mostSampled = 24;
/** Places that are told. */
const mostPlaces = 12;

async function placesOf(
  list: ReadHashes,
  volume: VolumeRow | null,
  folder: string | null,
): Promise<ListPlace[]> {
  const { files } = list;
  const step = Math.max(1, Math.ceil(files.length / mostSampled));
  const sampled = files.filter((_, index) => index % step === 0);
  const sample = sampled.map(({ path }) => path);
  const volumes = await volumesOfRig();
  const candidates = await candidateFolders(sample);
  const places: (ListPlace & { readonly fitting: number; readonly isCard: boolean })[] = [];
  for (const one of volumes) {
    const isGiven = one.id === volume?.id;
    const known = candidates.get(one.id);
    const folders = new Set(['', ...(known?.keys() ?? []), ...(isGiven && folder !== null ? [folder] : [])]);
    for (const below of folders) {
      // A store that does not answer may hold a look at a file up for ever: of others than the given one the library is asked.
      const inLibrary = known?.get(below) ?? 0;
      const { found, fitting } =
        one.facts.network != null && !isGiven
          ? { found: inLibrary, fitting: inLibrary }
          : await foundIn(join(one.path, below), sampled);
      if (found > 0 || (isGiven && below === folder))
        places.push({
          volumeId: one.id,
          volumeName: one.name,
          simulated: one.standIn !== null,
          folder: below,
          found,
          fitting,
          isCard: one.kind === 'card',
          of: sample.length,
        });
    }
  }
  // Beside the list is where what it names should be, whether it is there or not.
  const isBeside = (place: ListPlace) => Number(place.volumeId === volume?.id && place.folder === folder);
  return places
    .sort(
      (a, b) =>
        isBeside(b) - isBeside(a) ||
        b.fitting - a.fitting ||
        b.found - a.found ||
        // A copy is asked about rather than the card that it came from.
        Number(a.isCard) - Number(b.isCard),
    )
    .slice(0, mostPlaces)
    .map(({ fitting: _fitting, isCard: _isCard, ...place }) => place);
}

/** How many of some files lie in a folder, and how many of them in the size that the list has. */
async function foundIn(
  folder: string,
  files: readonly ListedFile[],
): Promise<{ readonly found: number; readonly fitting: number }> {
  let [found, fitting] = [0, 0];
  for (const { path, bytes } of files) {
    const facts = await lstat(join(folder, path)).catch(() => null);
    if (!facts?.isFile()) continue;
    found++;
    if (bytes === null || bytes === facts.size) fitting++;
  }
  return { found, fitting };
}

/** Folders by volume that may hold what a list names, with how many of the files the library knows there: where clips of those paths lie, and where copies went. */
async function candidateFolders(
  sample: readonly string[],
): Promise<ReadonlyMap<string, ReadonlyMap<string, number>>> {
  const folders = new Map<string, Map<string, number>>();
  const add = (volumeId: string, folder: string, found: number) => {
    const known = folders.get(volumeId) ?? new Map<string, number>();
    folders.set(volumeId, known.set(folder, (known.get(folder) ?? 0) + found));
  };
  const named = new Set(sample);
  const rigId = await currentRigId();
  for (const { volumeId, path } of await listClips(rigId)) {
    const parts = path.split('/');
    for (let at = 0; at < parts.length; at++)
      if (named.has(parts.slice(at).join('/'))) add(volumeId, parts.slice(0, at).join('/'), 1);
  }
  for (const { settings } of await listTrials({ rigId, kinds: ['copy'] }))
    for (const { volumeId, folder } of settings.destinations) add(volumeId, folder, 0);
  return folders;
}

/** Hash lists that lie on a volume. */
export async function listsOnVolume(id: string): Promise<FoundList[]> {
  return findLists((await requireVolume(id)).path);
}
