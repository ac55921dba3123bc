import 'server-only';
import { object, string, type InferType } from 'yup';
import { frameStructureLabel } from '@/core/media/frameStructure';
import { originalFirst, roleOf } from '@/core/media/footage';
import { rateLabel } from '@/core/time/rational';
import {
  clipSorts,
  countClips,
  listClipRows,
  type ClipFilter,
  type ClipGrouping,
  type ClipSort,
  type ListedClip,
} from '@/db/queries/clipList';
import { rankOf } from './footage';
import { checked } from '../platform/http';
import { csvInPieces } from '../platform/listCsv';
import { id, mostPages, mostSize, usualSize, whole } from '../platform/listWords';
import { currentRigId } from '../platform/rig';

/** The library is asked for as it stands in an address. */
export type LibraryQuery = Readonly<
  Partial<Record<'text' | 'state' | 'volume' | 'by' | 'sort' | 'order' | 'page' | 'size', string>>
>;

const one = <Word extends string>(name: string, words: readonly Word[]) =>
  string<Word>().oneOf([...words], `“${name}” is one of ${words.join(', ')}.`);

const libraryInput = object({
  text: string()
    .max(200, 'Look for at most 200 characters.')
    .meta({ about: 'Words that all stand in what a list shows of a clip.' }),
  state: one('state', ['ready', 'warned', 'unplayable', 'missing']),
  volume: id(),
  by: one<ClipGrouping>('by', ['footage', 'file']).default('footage'),
  sort: one<ClipSort>('sort', clipSorts).default('path'),
  order: one('order', ['asc', 'desc']).default('asc'),
  page: whole('page', mostPages).default(1),
  size: whole('size', mostSize).default(usualSize),
});
type Asked = InferType<typeof libraryInput>;

/** A clip as lists show it: without decoder set-up, with what to know in a few words. */
export type LibraryClip = ReturnType<typeof listed>;

/** A piece of footage: the file that stands for it, and its other files that match, originals before copies and renditions. */
export type LibraryRow = LibraryClip & { readonly others: readonly LibraryClip[] };

export interface LibraryPage {
  /** Rows on all pages, and files in them. */
  readonly total: number;
  readonly clips: number;
  /** Files in the library whatever narrows it, and those that cannot be decoded. */
  readonly known: number;
  readonly unplayable: number;
  /** Counted from 1. */
  readonly page: number;
  /** Most rows on a page. */
  readonly size: number;
  readonly rows: readonly LibraryRow[];
}

/** The original first; of equals one on a real volume. */
function inFamilyOrder(a: ListedClip, b: ListedClip): number {
  return (
    originalFirst(rankOf(a), rankOf(b)) ||
    Number(a.simulated) - Number(b.simulated) ||
    a.path.localeCompare(b.path)
  );
}

function listed(row: ListedClip, members: readonly ListedClip[]) {
  const {
    identity,
    modifiedAt: _modified,
    scannedAt: _scanned,
    indexMs: _index,
    family: _family,
    kept: _kept,
    ...clip
  } = row;
  return {
    ...clip,
    renditions: members.length,
    role: roleOf(row, members),
    scan: identity?.scan ?? null,
    constantRate: identity?.timing.constant ?? null,
    transfer: identity?.colour.transfer ?? null,
    audioTracks: identity?.audio.length ?? null,
    alpha: identity?.alpha ?? null,
  };
}

function rowOf(members: readonly ListedClip[]): LibraryRow[] {
  const ordered = members.toSorted(inFamilyOrder);
  const [head, ...others] = ordered.filter(({ kept }) => kept).map((clip) => listed(clip, ordered));
  return head ? [{ ...head, others }] : [];
}

const filterOf = ({ text, state, volume }: Asked): ClipFilter => ({
  ...(text && { words: text.split(/\s+/).filter(Boolean) }),
  ...(state && { state }),
  ...(volume && { volumeId: volume }),
});

const orderOf = ({ sort, order }: Asked) => ({ sort, descending: order === 'desc' });

/** A page of the library. @throws RequestError with the word at fault */
export async function readLibrary(query: LibraryQuery): Promise<LibraryPage> {
  const asked = checked(query, libraryInput);
  const rigId = await currentRigId();
  const { by, size } = asked;
  const filter = filterOf(asked);
  const pageAt = (page: number) =>
    listClipRows(rigId, filter, by, { ...orderOf(asked), most: size, skip: (page - 1) * size });
  const [{ rows, clips, known, unplayable }, wanted] = await Promise.all([
    countClips(rigId, filter, by),
    pageAt(asked.page),
  ]);
  // What was the last page may be gone by now.
  const page = Math.min(asked.page, Math.max(1, Math.ceil(rows / size)));
  const found = page === asked.page ? wanted : await pageAt(page);
  return { total: rows, clips, known, unplayable, page, size, rows: found.flatMap(rowOf) };
}

/** A page as the library's page begins with it; words in its address that mean nothing are left out. */
export async function readLibraryPart(asked: LibraryQuery) {
  const known = (await libraryInput.isValid(asked)) ? asked : {};
  return { asked: known, first: await readLibrary(known) };
}

/** A clip that a form begins with: by its id, or any file of a content. */
export interface WantedClip {
  readonly id?: string | undefined;
  readonly contentHash?: string | undefined;
}

/** The clip that a form begins with: the wanted one where it can be played, else the first that can, of stills only where there is nothing else; null where none can. */
export async function firstClip({ id, contentHash }: WantedClip = {}): Promise<LibraryClip | null> {
  const rigId = await currentRigId();
  const order = { sort: 'path', descending: false, most: 1, skip: 0 } as const;
  const wanted = id ? [{ ids: [id] }] : contentHash ? [{ contentHash }] : [];
  for (const narrowed of [...wanted, { moving: true } as const, {}]) {
    const [members] = await listClipRows(rigId, { state: 'ready', ...narrowed }, 'file', order);
    if (members?.[0]) return listed(members[0], members);
  }
  return null;
}

type Column = readonly [string, (clip: LibraryClip) => string | number | null | undefined];
const columns: readonly Column[] = [
  ['id', ({ id: of }) => of],
  ['clip', ({ path }) => path],
  ['volume', ({ volumeName }) => volumeName],
  ['simulated', ({ simulated }) => (simulated ? 'simulated' : '')],
  ['footage', ({ footageName }) => footageName],
  ['role', ({ role }) => role],
  ['state', ({ status }) => status],
  ['codec', ({ format }) => format?.codec],
  ['profile', ({ format }) => format?.profile],
  ['bit depth', ({ format }) => format?.bitDepth],
  ['chroma', ({ format }) => format?.chroma],
  ['width', ({ format }) => format?.width],
  ['height', ({ format }) => format?.height],
  ['rate (1/s)', ({ format }) => format && rateLabel(format.rate)],
  ['frames', ({ frames }) => frames],
  ['frame structure', ({ structure }) => structure && frameStructureLabel(structure)],
  ['mean (b/s)', ({ meanBitsPerSecond }) => meanBitsPerSecond],
  ['peak over 1 s (b/s)', ({ peakBitsPerSecond }) => peakBitsPerSecond],
  ['start timecode', ({ startTimecode }) => startTimecode],
  ['scan', ({ scan }) => scan],
  ['transfer', ({ transfer }) => transfer],
  ['audio tracks', ({ audioTracks }) => audioTracks],
  ['alpha', ({ alpha }) => (alpha === null ? null : alpha ? 'yes' : 'no')],
  ['container', ({ format }) => format?.container],
  ['size (B)', ({ sizeBytes }) => sizeBytes],
  ['notes', ({ problem, warnings }) => problem ?? warnings.join(', ')],
];

const cellsOf = (clip: LibraryClip) => columns.map(([, of]) => of(clip));

const inPieces = 500;

/** All files of the library that it is narrowed to as CSV (RFC 4180), piece by piece. @throws RequestError with the word at fault */
export async function libraryCsv(query: LibraryQuery): Promise<AsyncGenerator<string>> {
  const asked = checked(query, libraryInput);
  const rigId = await currentRigId();
  const pieceAfter = async (skip: number) => {
    const order = { ...orderOf(asked), most: inPieces, skip };
    const rows = await listClipRows(rigId, filterOf(asked), asked.by, order);
    return rows.map((members) =>
      rowOf(members).flatMap(({ others, ...head }) => [head, ...others].map(cellsOf)),
    );
  };
  return csvInPieces(
    columns.map(([name]) => name),
    inPieces,
    pieceAfter,
  );
}
