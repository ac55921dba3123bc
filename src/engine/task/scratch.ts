import { constants } from 'node:fs';
import { access, mkdir, readdir, rename, rm, rmdir, unlink, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { EngineError, errorCode, fileError } from '../errors';
import { HeldFolder } from '../inPlace';
import { settle } from '../settle';
import { roomOn } from '../storage/testFile';

const namePattern = /^\.navvy-scratch-[\w-]+$/;
const markerName = 'navvy-scratch.txt';

/** Folder that a task writes to until its output is proved. Hidden, so that no scan takes it for media. */
export function scratchFolder(volumePath: string, trialId: string): string {
  return join(volumePath, `.navvy-scratch-${trialId}`);
}

/** Makes an empty scratch folder with its marker. @throws EngineError when the volume does not take it */
export async function makeScratch(volumePath: string, trialId: string): Promise<string> {
  const folder = scratchFolder(volumePath, trialId);
  try {
    await removeScratch(volumePath, trialId);
    await mkdir(folder);
    await writeFile(
      join(folder, markerName),
      'Navvy scratch folder. It may be removed with all that is in it.\n',
    );
  } catch (error) {
    throw fileError(error, folder);
  }
  return folder;
}

/** Removes scratch folders that lie directly in a volume: that of one trial, or all. Only folders with the marker go. Returns how many went. */
export async function removeScratch(volumePath: string, trialId: string | null = null): Promise<number> {
  let removed = 0;
  for (const entry of await readdir(volumePath, { withFileTypes: true }).catch(() => [])) {
    if (!entry.isDirectory() || !namePattern.test(entry.name)) continue;
    if (trialId !== null && join(volumePath, entry.name) !== scratchFolder(volumePath, trialId)) continue;
    const folder = join(volumePath, entry.name);
    const isMarked = await access(join(folder, markerName), constants.F_OK).then(
      () => true,
      () => false,
    );
    // One that was made a moment before a crash is empty.
    if (isMarked) await rm(folder, { recursive: true, force: true });
    else await rmdir(folder).catch(() => undefined);
    removed++;
  }
  return removed;
}

/** @throws EngineError where what a task may write would touch the volume's reserve */
export async function assertRoomFor(folder: string, bytes: number): Promise<void> {
  const { free, reserve } = await roomOn(folder);
  const room = free - reserve;
  if (room < bytes) throw new EngineError('no-room', { folder, room: Math.max(0, room), bytes });
}

/**
 * Moves an output out of its scratch folder to where it is kept: a file, or a folder of pictures. Never over something that is there.
 * @param name of the result, without its ending
 * @returns its path
 */
export async function keepOutput(path: string, into: string, name: string): Promise<string> {
  await mkdir(into, { recursive: true });
  const isSequence = path.includes('%');
  const ending = isSequence ? '' : path.slice(path.lastIndexOf('.'));
  return HeldFolder.during(into, async (folder) => {
    for (let number = 1; ; number++) {
      const whole = `${name}${number === 1 ? '' : `_${number}`}${ending}`;
      const kept = folder.at(whole);
      try {
        if (isSequence) {
          await mkdir(kept);
          await rename(dirname(path), kept);
          await unlink(join(kept, markerName));
        } else {
          await settle(path, kept);
        }
        return join(into, whole);
      } catch (error) {
        if (errorCode(error) !== 'EEXIST') throw fileError(error, join(into, whole));
      }
    }
  });
}
