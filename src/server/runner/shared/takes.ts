import { createHash } from 'node:crypto';
import { basename } from 'node:path';
import { frameStructure } from '@/core/media/frameStructure';
import { bytesPerSlot, dataRate } from '@/core/media/dataRate';
import type { ClipIdentity } from '@/core/media/identity';
import { decodePacketTable, encodePacketTable, type PacketTable } from '@/core/media/packetTable';
import { decodeSoundTable, encodeSoundTable, joinedSound, type SoundTable } from '@/core/media/soundTable';
import { findTakes, joinedPackets, neighbours, takePath, type TakePart } from '@/core/media/takes';
import { timingOf } from '@/core/media/timing';
import { greatest, least } from '@/core/stats/extremes';
import {
  getPacketTable,
  getSoundTable,
  listClipsOfVolume,
  markMissing,
  saveClip,
  updateClips,
  type ClipRow,
} from '@/db/queries/clips';

/** A clip that is read as it should be, in one file. */
type PartRow = ClipRow & {
  readonly format: NonNullable<ClipRow['format']>;
  readonly setup: NonNullable<ClipRow['setup']>;
  readonly identity: ClipIdentity;
  readonly structure: NonNullable<ClipRow['structure']>;
  readonly timeBase: NonNullable<ClipRow['timeBase']>;
  readonly frames: number;
};

const mayBePart = (row: ClipRow): row is PartRow =>
  row.status === 'ready' &&
  row.format !== null &&
  row.setup !== null &&
  row.identity !== null &&
  row.structure !== null &&
  row.timeBase !== null &&
  (row.frames ?? 0) > 1 &&
  !row.setup.sequence &&
  !row.setup.parts;

/** Ticks of a clip's time base that a frame lasts. */
const stepOf = ({ format: { rate }, timeBase }: PartRow): number =>
  (rate.den * timeBase.den) / (rate.num * timeBase.num);

/** Where a wrapped stream's clock begins, and where it would go on behind its last frame. */
function clockOf(row: PartRow, { pts }: PacketTable): TakePart['clock'] {
  const times = pts.filter(Number.isFinite);
  if (!row.setup.wrapping || times.length === 0) return null;
  return { first: least(times), end: greatest(times) + stepOf(row) };
}

/** Finds takes that a camera split over files of a volume, lists each as one clip, and says so with its parts. */
export async function recordTakes(volumeId: string, clipId: (path: string) => string): Promise<void> {
  const rows = await listClipsOfVolume(volumeId);
  const singles = rows.filter(mayBePart);
  const tables = new Map<string, PacketTable>();
  const tableOf = async ({ id }: PartRow) => {
    const known = tables.get(id);
    if (known) return known;
    const packed = await getPacketTable(id);
    const table = packed && decodePacketTable(packed);
    if (table) tables.set(id, table);
    return table;
  };
  const parts: TakePart[] = [];
  const near = neighbours(singles.map(({ path }) => path));
  for (const [at, row] of singles.entries()) {
    const table = row.setup.wrapping && near.has(at) ? await tableOf(row) : null;
    const { extradata, codecId, wrapping } = row.setup;
    parts.push({
      path: row.path,
      sizeBytes: row.sizeBytes,
      format: row.format,
      frames: row.frames,
      startTimecode: row.startTimecode,
      coded: JSON.stringify([codecId, extradata, wrapping]),
      clock: table ? clockOf(row, table) : null,
    });
  }
  const found = findTakes(parts);
  const takes = found.takes.map((take): NamedTake => {
    const own = take.parts.map((at) => singles[at] as PartRow);
    return { path: takePath(own.map(({ path }) => path)), parts: own };
  });
  const before = new Map(rows.map((row) => [row.path, row]));
  for (const take of takes)
    await saveTake(
      { id: before.get(take.path)?.id ?? clipId(take.path), volumeId },
      take,
      before.get(take.path),
      tableOf,
    );
  const kept = new Set(takes.map(({ path }) => path));
  await markMissing(rows.filter((row) => row.setup?.parts && !kept.has(row.path)).map(({ id }) => id));
  await noteParts(
    singles,
    takes,
    found.doubtful.map(([at, next]) => [singles[at] as PartRow, singles[next] as PartRow]),
  );
}

/** A take as it is listed, with its parts in order. */
interface NamedTake {
  readonly path: string;
  readonly parts: readonly PartRow[];
}

/** Lists a take as a clip, unless it is there as it is. @param before what was listed under its path */
async function saveTake(
  place: { readonly id: string; readonly volumeId: string },
  { path, parts }: NamedTake,
  before: ClipRow | undefined,
  tableOf: (row: PartRow) => Promise<PacketTable | null>,
): Promise<void> {
  const contentHash = createHash('sha256')
    .update(parts.map((part) => part.contentHash ?? '').join(' '))
    .digest('hex');
  if (before?.contentHash === contentHash && before.status === 'ready') return;
  const tables: PacketTable[] = [];
  for (const part of parts) {
    const table = await tableOf(part);
    if (!table) return;
    tables.push(table);
  }
  const [first] = parts as [PartRow];
  const sizes = parts.map(({ sizeBytes }) => sizeBytes);
  const packets = joinedPackets(tables, sizes, stepOf(first));
  const sound = await soundOfTake(parts);
  const { partOf: _part, mayGoOnIn: _next, ...identity } = first.identity;
  await saveClip(
    {
      ...place,
      path,
      sizeBytes: sizes.reduce((sum, bytes) => sum + bytes, 0),
      modifiedAt: new Date(greatest(parts.map(({ modifiedAt }) => modifiedAt.getTime()))),
      status: 'ready',
      problem: null,
      contentHash,
      format: first.format,
      structure: frameStructure(packets, first.structure.referenceDepth),
      identity: { ...identity, timing: timingOf(packets, first.timeBase) },
      timeBase: first.timeBase,
      setup: {
        ...first.setup,
        parts: parts.map((part) => ({ name: basename(part.path), bytes: part.sizeBytes })),
      },
      sound: sound && first.sound,
      startTimecode: first.startTimecode,
      frames: packets.length,
      ...dataRate(bytesPerSlot(packets), first.format.rate),
      indexMs: null,
    },
    encodePacketTable(packets),
    sound && encodeSoundTable(sound),
  );
}

/** The sound of a take's files one after the other; null where not all have the same kind. */
async function soundOfTake(parts: readonly PartRow[]): Promise<SoundTable | null> {
  const tables: SoundTable[] = [];
  for (const { id, sound } of parts) {
    const packed =
      sound && JSON.stringify(sound) === JSON.stringify(parts[0]?.sound) ? await getSoundTable(id) : null;
    if (!packed) return null;
    tables.push(decodeSoundTable(packed));
  }
  return joinedSound(
    tables,
    parts.map(({ sizeBytes }) => sizeBytes),
    parts.map(({ frames, format: { rate } }) => (frames * rate.den) / rate.num),
  );
}

/** Says with each clip of which take it is a part, or in what it may go on; and no more where it is none by now. */
async function noteParts(
  singles: readonly PartRow[],
  takes: readonly NamedTake[],
  doubtful: readonly (readonly [PartRow, PartRow])[],
): Promise<void> {
  const notes = new Map<string, Pick<ClipIdentity, 'partOf' | 'mayGoOnIn'>>();
  for (const { path, parts } of takes)
    parts.forEach(({ id }, at) => notes.set(id, { partOf: { path, part: at + 1, parts: parts.length } }));
  for (const [{ id }, next] of doubtful) notes.set(id, { ...notes.get(id), mayGoOnIn: next.path });
  for (const { id, identity } of singles) {
    const { partOf, mayGoOnIn, ...plain } = identity;
    const note = notes.get(id) ?? {};
    if (JSON.stringify([partOf, mayGoOnIn]) === JSON.stringify([note.partOf, note.mayGoOnIn])) continue;
    await updateClips([id], { identity: { ...plain, ...note } });
  }
}
