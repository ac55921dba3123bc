import 'server-only';
import { together } from '@/core/together';
import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { access, mkdir, rm } from 'node:fs/promises';
import { basename, dirname, extname, join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ReadableStream } from 'node:stream/web';
import { bytesPerSlot } from '@/core/media/dataRate';
import { originalFirst, roleOf } from '@/core/media/footage';
import { noDecoder } from '@/core/media/identity';
import { decodePacketTable, frameTypes, isKey } from '@/core/media/packetTable';
import { atRate, hasFreeRate } from '@/core/media/clipRate';
import type { Rational } from '@/core/time/rational';
import { pictureEndings } from '@/core/media/imageSequence';
import { clipUses } from '@/core/media/uses';
import { warningsOf } from '@/core/media/warnings';
import {
  getClip,
  getPacketTable,
  getPreview,
  listClipsOfFootage,
  removeMissingClips,
  updateClips,
  type ClipWithVolume,
} from '@/db/queries/clips';
import { getFootage } from '@/db/queries/footage';
import { renditionOf } from '@/db/queries/renditions';
import { errorCode, fileErrorMessage } from '@/engine/errors';
import { HeldFolder } from '@/engine/inPlace';
import { settle } from '@/engine/settle';
import { assertInside, inspectVolume, mediaEndings } from '@/engine/volume';
import { usableDevices } from './decode';
import { openingsOfClips } from './openings';
import { RequestError } from '../platform/errors';
import { publish } from '../platform/events';
import { plainFolder } from '../platform/paths';
import { groupAutomatically, groupByHand, rankOf, takeOut } from './footage';
import { requestScan, requireVolume } from './library';
import { currentRigId } from '../platform/rig';
import { allowedRoots } from './roots';

/** The original first; of equals one on a real volume. */
function inFamilyOrder(a: ClipWithVolume, b: ClipWithVolume): number {
  return (
    originalFirst(rankOf(a), rankOf(b)) ||
    Number(a.volumeStandIn !== null) - Number(b.volumeStandIn !== null) ||
    a.path.localeCompare(b.path)
  );
}

/** What a clip's page shows. @throws RequestError when it is gone */
export async function readClipPage(id: string) {
  const row = await requireClip(id);
  const { preview, family, footage, made, devices } = await together({
    preview: getPreview(id),
    family: row.footageId === null ? [row] : listClipsOfFootage(row.footageId),
    footage: row.footageId === null ? null : getFootage(row.footageId),
    made: renditionOf(id),
    devices: usableDevices(),
  });
  const { setup, ...clip } = row;
  const members = [...family].sort(inFamilyOrder);
  const openings = await openingsOfClips(members);
  return {
    clip: {
      ...clip,
      sequence: setup?.sequence ?? null,
      parts: setup?.parts ?? null,
      simulated: row.volumeStandIn !== null,
    },
    devices,
    warnings: warningsOf(row),
    uses: clipUses({
      status: row.status,
      hasPackets: row.frames !== null,
      hasDecoder: setup !== null && row.identity?.decodeProblem !== noDecoder,
    }),
    preview: preview && {
      tiles: preview.tiles,
      tileWidth: preview.tileWidth,
      tileHeight: preview.tileHeight,
      stripMs: preview.stripMs,
      audioMs: preview.audioMs,
      problem: preview.problem,
      hasStrip: preview.strip !== null,
      peaks: preview.peaks && [...preview.peaks],
    },
    footage: footage && { id: footage.id, name: footage.name, byHand: footage.byHand },
    renditions: members.map((member) => ({
      id: member.id,
      path: member.path,
      volumeName: member.volumeName,
      simulated: member.volumeStandIn !== null,
      format: member.format,
      meanBitsPerSecond: member.meanBitsPerSecond,
      sizeBytes: member.sizeBytes,
      status: member.status,
      role: roleOf(member, members),
      footageHand: member.footageHand,
      opening: openings.get(member.id) ?? null,
    })),
    made: made && { trialId: made.trialId, frameCheck: made.frameCheck },
  };
}
export type ClipPage = Awaited<ReturnType<typeof readClipPage>>;

async function requireClip(id: string): Promise<ClipWithVolume> {
  const clip = await getClip(id);
  if (!clip) throw new RequestError('clip-removed');
  return clip;
}

/** Size and type of every frame in display order, for the charts. Types are letters, one a frame; small letters are key frames. */
export async function framesOf(id: string): Promise<{ bytes: number[]; types: string }> {
  await requireClip(id);
  const packed = await getPacketTable(id);
  if (!packed) throw new RequestError('frames-unknown');
  const table = decodePacketTable(packed);
  const types = new Array<string>(table.length).fill('?');
  for (let row = 0; row < table.length; row++) {
    const letter = frameTypes[table.type[row] ?? 0] ?? '?';
    types[table.slot[row] ?? 0] = isKey(table, row) ? letter.toLowerCase() : letter;
  }
  return { bytes: [...bytesPerSlot(table)], types: types.join('') };
}

/** The thumbnail strip as JPEG. */
export async function stripOf(id: string): Promise<Response> {
  const preview = await getPreview(id);
  if (!preview?.strip) throw new RequestError('no-thumbnails');
  return new Response(new Uint8Array(preview.strip), {
    headers: { 'content-type': 'image/jpeg', 'cache-control': 'no-cache' },
  });
}

/**
 * Sets the rate of a clip whose files state none.
 * @throws RequestError where its files state one
 */
export async function changeClip(id: string, rate: Rational): Promise<{ id: string }> {
  const [clip, packed] = await Promise.all([requireClip(id), getPacketTable(id)]);
  if (!clip.format || !clip.identity || !packed || !hasFreeRate(clip.identity))
    throw new RequestError('clip-states-rate', { path: clip.path }, 'rate');
  await updateClips(
    [id],
    atRate({ format: clip.format, identity: clip.identity }, decodePacketTable(packed), rate),
  );
  await publish({ type: 'clips' });
  return { id };
}

const clipActions = {
  group: groupByHand,
  'take-out': takeOut,
  'group-automatically': groupAutomatically,
} as const;
export type ClipAction = keyof typeof clipActions | 'forget';

/** Does one thing to several clips. Returns what it did. */
export async function actOnClips(action: ClipAction, clipIds: readonly string[]): Promise<{ done: number }> {
  const rigId = await currentRigId();
  if (action === 'forget') {
    const done = await removeMissingClips(clipIds);
    await publish({ type: 'clips' });
    return { done };
  }
  await clipActions[action](rigId, clipIds);
  await publish({ type: 'clips' });
  return { done: clipIds.length };
}

/**
 * Writes an uploaded clip into a folder of a volume and asks for a scan. Written
 * beside its place and renamed when whole.
 * @throws RequestError when the name is no media file's, or is taken
 */
export async function uploadClip(
  volumeId: string,
  fileName: string,
  folder: string,
  body: ReadableStream<Uint8Array> | null,
): Promise<{ path: string }> {
  const volume = await requireVolume(volumeId);
  const name = basename(fileName);
  const ending = extname(name).toLowerCase();
  if (!mediaEndings.has(ending) && !pictureEndings.has(ending))
    throw new RequestError('no-media-ending', { name, endings: [...mediaEndings].join(', ') }, 'file');
  const below = plainFolder(folder, 'folder');
  if (!body) throw new RequestError('nothing-sent', {}, 'file');
  const { path: root, facts } = await inspectVolume(volume.path, allowedRoots());
  if (!facts.writable) throw new RequestError('chosen-volume-read-only', { name: volume.name }, 'volumeId');
  const path = join(root, below, name);
  await assertInside(root, path);
  const taken = () => new RequestError('upload-name-taken', { name, volume: volume.name }, 'file');
  const isThere = await access(path).then(
    () => true,
    () => false,
  );
  if (isThere) throw taken();
  try {
    await mkdir(dirname(path), { recursive: true });
    await HeldFolder.during(dirname(path), async (held) => {
      const partial = held.at(`.upload-${randomUUID()}.partial${extname(name)}`);
      try {
        await pipeline(Readable.fromWeb(body), createWriteStream(partial, { flags: 'wx' }));
        // Never over a file that came there meanwhile.
        await settle(partial, held.at(name));
      } finally {
        await rm(partial, { force: true });
      }
    });
  } catch (error) {
    if (errorCode(error) === 'EEXIST') throw taken();
    throw new RequestError('upload-failed', { problem: fileErrorMessage(error, path) }, 'file');
  }
  await requestScan(volumeId);
  return { path: join(below, name) };
}
