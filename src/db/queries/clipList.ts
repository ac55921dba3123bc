import { and, eq, getTableColumns, gt, ilike, inArray, isNull, like, or, sql, type SQL } from 'drizzle-orm';
import { database } from '../client';
import { clips, footage, volumes } from '../schema';
import { plain } from './pattern';

/** Which clips of a rig are wanted; what is left out does not narrow them. */
export interface ClipFilter {
  /** Each stands in something that a list shows of the clip, in any case of letters. */
  readonly words?: readonly string[];
  readonly state?: 'ready' | 'warned' | 'unplayable' | 'missing';
  readonly volumeId?: string;
  readonly ids?: readonly string[];
  /** Of this content. */
  readonly contentHash?: string;
  /** Of more frames than one: no still. */
  readonly moving?: true;
}

/** What stands in one row of a list: a piece of footage with all its files, or a file. */
export type ClipGrouping = 'footage' | 'file';

const name = sql`lower(regexp_replace(${clips.path}, '^.*/', ''))`;
const pixels = sql`coalesce((${clips.format}->>'width')::bigint * (${clips.format}->>'height')::bigint, 0)`;
const bitDepth = sql`coalesce((${clips.format}->>'bitDepth')::int, 0)`;
const meanRate = sql`coalesce(${clips.meanBitsPerSecond}, 0)`;
const rate = sql`(${clips.format}#>>'{rate,num}')::float / (${clips.format}#>>'{rate,den}')::float`;

/** What a list can be sorted by. */
const sortKeys = {
  path: name,
  footage: sql`lower(${footage.name})`,
  volumeName: sql`lower(${volumes.name})`,
  codec: sql`concat_ws(' ', ${clips.format}->>'codec', ${clips.format}->>'profile')`,
  depth: sql`lpad(${clips.format}->>'bitDepth', 3, '0') || (${clips.format}->>'chroma')`,
  raster: pixels,
  rate,
  duration: sql`${clips.frames} / (${rate})`,
  // A clip with one key frame has to be decoded from its beginning.
  structure: sql`case when (${clips.structure}->>'intra')::boolean then 0
    else coalesce((${clips.structure}#>>'{keyInterval,max}')::float, ${clips.frames}) end`,
  frames: sql`${clips.frames}`,
  meanBitsPerSecond: sql`${clips.meanBitsPerSecond}`,
  peakBitsPerSecond: sql`${clips.peakBitsPerSecond}`,
  timecode: sql`${clips.startTimecode}`,
  scan: sql`${clips.identity}->>'scan'`,
  transfer: sql`${clips.identity}#>>'{colour,transfer}'`,
  audioTracks: sql`jsonb_array_length(${clips.identity}->'audio')`,
  alpha: sql`(${clips.identity}->>'alpha')::boolean`,
  container: sql`${clips.format}->>'container'`,
  sizeBytes: sql`${clips.sizeBytes}`,
  notes: sql`nullif(coalesce(${clips.problem}, array_to_string(${clips.warnings}, ', ')), '')`,
} as const satisfies Readonly<Record<string, SQL>>;
export type ClipSort = keyof typeof sortKeys;
export const clipSorts = Object.keys(sortKeys) as ClipSort[];

const families = {
  footage: sql<string>`coalesce(${clips.footageId}, ${clips.id})`,
  file: sql<string>`${clips.id}`,
} as const satisfies Readonly<Record<ClipGrouping, SQL>>;

const states = {
  ready: eq(clips.status, 'ready'),
  warned: and(eq(clips.status, 'ready'), sql`cardinality(${clips.warnings}) > 0`),
  unplayable: eq(clips.status, 'unplayable'),
  missing: eq(clips.status, 'missing'),
} as const;

/**
 * What a filter asks of a clip. Its words are kept in small letters; names of volumes and footage are looked through once
 * and not for every clip.
 */
function matching({ words = [], state, volumeId, ids, contentHash, moving }: ClipFilter): SQL {
  const named = (pattern: string) =>
    or(
      like(clips.words, pattern),
      inArray(
        clips.volumeId,
        database().select({ id: volumes.id }).from(volumes).where(ilike(volumes.name, pattern)),
      ),
      inArray(
        clips.footageId,
        database().select({ id: footage.id }).from(footage).where(ilike(footage.name, pattern)),
      ),
    );
  return (
    and(
      ...words.map((word) => named(`%${plain(word.toLowerCase())}%`)),
      state && states[state],
      volumeId === undefined ? undefined : eq(clips.volumeId, volumeId),
      ids && inArray(clips.id, [...ids]),
      contentHash === undefined ? undefined : eq(clips.contentHash, contentHash),
      moving && gt(clips.frames, 1),
    ) ?? sql`true`
  );
}

const media = (rigId: string) => and(eq(volumes.rigId, rigId), isNull(clips.made));

export interface ClipCounts {
  /** Rows of a list with this filter. */
  readonly rows: number;
  /** Clips in them that match it. */
  readonly clips: number;
  /** Clips of the rig in all, and those of them that cannot be decoded. */
  readonly known: number;
  readonly unplayable: number;
}

/** Counts the clips of a rig. */
export async function countClips(
  rigId: string,
  filter: ClipFilter,
  grouping: ClipGrouping,
): Promise<ClipCounts> {
  const family = families[grouping];
  const kept = database()
    .select({ files: sql<number>`count(*)`.as('files') })
    .from(clips)
    .innerJoin(volumes, eq(clips.volumeId, volumes.id))
    .where(and(media(rigId), matching(filter)))
    .groupBy(family)
    .as('kept');
  const [[matched], [whole]] = await Promise.all([
    database()
      .select({
        rows: sql<number>`count(*)::int`,
        clips: sql<number>`coalesce(sum(${kept.files}), 0)::int`,
      })
      .from(kept),
    database()
      .select({
        known: sql<number>`count(*)::int`,
        unplayable: sql<number>`(count(*) filter (where ${states.unplayable}))::int`,
      })
      .from(clips)
      .innerJoin(volumes, eq(clips.volumeId, volumes.id))
      .where(media(rigId)),
  ]);
  return { rows: 0, clips: 0, known: 0, unplayable: 0, ...matched, ...whole };
}

const columns = getTableColumns(clips);
const {
  setup: _setup,
  sound: _sound,
  timeBase: _timeBase,
  faults: _faults,
  words: _words,
  ...light
} = columns;

export type ListedClip = Awaited<ReturnType<typeof readFamilies>>[number];

/** All clips in some rows, and of each whether it matches the filter. */
async function readFamilies(
  rigId: string,
  filter: ClipFilter,
  grouping: ClipGrouping,
  rows: readonly string[],
) {
  const family = families[grouping];
  return database()
    .select({
      ...light,
      family,
      kept: sql<boolean>`(${matching(filter)})`,
      footageName: footage.name,
      volumeName: volumes.name,
      simulated: sql<boolean>`${volumes.standIn} is not null`,
    })
    .from(clips)
    .innerJoin(volumes, eq(clips.volumeId, volumes.id))
    .leftJoin(footage, eq(clips.footageId, footage.id))
    .where(and(media(rigId), inArray(family, [...rows])));
}

/**
 * Rows of a rig's clips in order, each with all clips in it: `most` of them after the first `skip`. A row stands where
 * the first of its clips that match does: the original, or what comes nearest to it.
 */
export async function listClipRows(
  rigId: string,
  filter: ClipFilter,
  grouping: ClipGrouping,
  { sort, descending, most, skip }: ClipOrder,
): Promise<ListedClip[][]> {
  const order = descending ? sql`desc nulls last` : sql`asc nulls last`;
  // The order of an original before its renditions is that of `originalFirst`.
  const { rows } = await database().execute<{ family: string }>(sql`
    with kept as (
      select ${families[grouping]} as family, ${sortKeys[sort]} as key, ${name} as name, ${clips.path} as path,
        ${pixels} as pixels, ${bitDepth} as depth, ${meanRate} as mean, ${volumes.standIn} is not null as simulated,
        ${volumes.createdAt} as added, ${clips.id} as id
      from ${clips} join ${volumes} on ${clips.volumeId} = ${volumes.id}
        left join ${footage} on ${clips.footageId} = ${footage.id}
      where ${media(rigId)} and ${matching(filter)}
    ), heads as (
      select distinct on (family) * from kept
      order by family, pixels desc, depth desc, mean desc, simulated, path, added, id
    )
    select family from heads order by key ${order}, name, path, added, id limit ${most} offset ${skip}`);
  const ordered = rows.map(({ family }) => family);
  if (ordered.length === 0) return [];
  const found = new Map<string, ListedClip[]>(ordered.map((family) => [family, []]));
  for (const clip of await readFamilies(rigId, filter, grouping, ordered)) found.get(clip.family)?.push(clip);
  return [...found.values()].filter((members) => members.length > 0);
}

export interface ClipOrder {
  readonly sort: ClipSort;
  readonly descending: boolean;
  readonly most: number;
  readonly skip: number;
}

/** Volumes of a rig that hold a clip that can be played, by name. */
export async function listVolumesWithClips(rigId: string) {
  return database()
    .selectDistinct({
      id: volumes.id,
      name: volumes.name,
      simulated: sql<boolean>`${volumes.standIn} is not null`,
    })
    .from(volumes)
    .innerJoin(clips, eq(clips.volumeId, volumes.id))
    .where(and(media(rigId), states.ready))
    .orderBy(volumes.name);
}
