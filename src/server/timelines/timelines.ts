import { mediaRefOf } from '@/core/timeline/mediaRef';
import type { InferType } from '@/core/edge/strict';
import { isSimulatedDecoding } from '@/core/decode/decoding';
import { EdlError } from '@/core/formats/edl/error';
import { parseEdl } from '@/core/formats/edl/read';
import { edlLosses, writeEdl } from '@/core/formats/edl/write';
import { OtioError } from '@/core/formats/otio/json';
import { parseOtio } from '@/core/formats/otio/read';
import { otioLosses, writeOtio } from '@/core/formats/otio/write';
import { CubeError, parseCube } from '@/core/formats/cube';
import { defaultBufferDepths } from '@/core/playback/slots';
import { decodePacketTable } from '@/core/media/packetTable';
import { rational, type Rational } from '@/core/time/rational';
import { planCourse } from '@/core/timeline/course';
import { excerpt } from '@/core/timeline/edits';
import { prerenderedSlots } from '@/core/tasks/prerender';
import { courseLength, type Course } from '@/core/timeline/flatten';
import { conformed, graded, runThrough, sideBySide, worstMinute } from '@/core/timeline/loads';
import { emptyTimeline, lengthOf, type MediaRef, type Timeline } from '@/core/timeline/model';
import { soundTimeline, timelineFrom } from '@/core/timeline/schema';
import { linkedRef, relinkAll, type Candidate, type RelinkReason } from '@/core/timeline/relink';
import { getClips, listClips, type ClipWithVolume } from '@/db/queries/clips';
import { listPrerenders } from '@/db/queries/prerenders';
import {
  addLook,
  addTimeline,
  getLooks,
  getTimeline,
  getVersion,
  keepVersion,
  listLooks,
  listTimelines,
  listVersions,
  removeTimeline,
  saveTimeline,
  type TimelineRow,
} from '@/db/queries/timelines';
import type { NewTrial } from '@/db/kinds';
import { volumesOfTrial } from '@/core/kinds/volumes';
import { volumesOf, type TimelineSubject } from '@/core/timeline/subject';
import { RequestError } from '../platform/errors';
import { newId } from '../platform/ids';
import { currentRigId } from '../platform/rig';
import { filesFor, mediaOfCourse, specFor, usedMedia, type MediaChoice } from './timelineMedia';
import { discardPrerender, usablePrerenders } from './prerenders';
import { mostClips, type importInput, type loadInput } from '@/core/asked/timelines';
import { listClipChoices } from '../library/clipChoices';
import type { PlaybackSettings } from '@/core/playback/settings';
import type { timelinePlaybackInput } from '@/core/kinds/playback';

export async function timelinesOfRig() {
  return listTimelines(await currentRigId());
}

export async function requireTimeline(id: string): Promise<TimelineRow> {
  const timeline = await getTimeline(id);
  if (!timeline) throw new RequestError('no-such-timeline');
  return timeline;
}

/** Adds a timeline under a new id. @throws TimelineError when it is not sound */
export async function createTimeline(made: Timeline, demo = 0): Promise<string> {
  const document = timelineFrom(made);
  const id = newId();
  await addTimeline({
    id,
    rigId: await currentRigId(),
    name: document.name,
    document,
    slots: lengthOf(document),
    demo,
  });
  return id;
}

/** An empty timeline; its rate and raster are those of the first clip that is dragged in, or the given ones. */
export async function createEmpty(
  name: string,
  rate: Rational,
  width: number,
  height: number,
): Promise<string> {
  return createTimeline(emptyTimeline(name, rate, width, height));
}

/** Saves an edited document. @throws RequestError 409 when another page saved meanwhile */
export async function saveDocument(
  id: string,
  { revision, document }: { readonly revision: number; readonly document: Timeline },
): Promise<{ revision: number }> {
  soundTimeline(document);
  const saved = await saveTimeline(id, revision, document, lengthOf(document));
  if (saved !== null) return { revision: saved };
  await requireTimeline(id);
  throw new RequestError('changed-elsewhere');
}

export async function deleteTimeline(id: string): Promise<void> {
  await requireTimeline(id);
  for (const rendered of await listPrerenders(id)) await discardPrerender(rendered);
  await removeTimeline(id);
}

export async function copyTimeline(id: string, name: string): Promise<string> {
  const { document } = await requireTimeline(id);
  return createTimeline({ ...document, name });
}

/** Keeps the present state under a name. Returns the version's number. */
export async function nameVersion(id: string, name: string): Promise<number> {
  return keepVersion(id, (await requireTimeline(id)).document, name);
}

export async function versionsOf(id: string) {
  await requireTimeline(id);
  return listVersions(id);
}

export async function versionDocument(id: string, number: string): Promise<Timeline> {
  const version = /^\d{1,9}$/.test(number) ? await getVersion(id, Number(number)) : undefined;
  if (!version) throw new RequestError('no-such-version');
  return version.document;
}

async function namedMedia(clipIds: readonly string[]): Promise<{ id: string; ref: MediaRef }[]> {
  const clips = new Map((await getClips(clipIds)).map((clip) => [clip.id, clip]));
  return clipIds.map((id, at) => {
    const clip = clips.get(id);
    const ref = clip && clip.status === 'ready' ? mediaRefOf(clip) : null;
    if (!ref)
      throw clip
        ? new RequestError('chosen-clip-unplayable', { path: clip.path }, 'clipIds')
        : new RequestError('chosen-clip-gone', {}, 'clipIds');
    return { id: `m${at + 1}`, ref };
  });
}

/** Builds a timeline that loads the rig in a known way. Returns its id. */
export async function createLoad(input: InferType<typeof loadInput>): Promise<string> {
  switch (input.kind) {
    case 'streams':
    case 'grades': {
      const [media] = await namedMedia(input.clipIds.slice(0, 1));
      if (!media) throw new RequestError('no-clip', {}, 'clipIds');
      return createTimeline(
        input.kind === 'streams'
          ? sideBySide(media, input.count, input.seconds)
          : graded(media, input.count, input.seconds),
      );
    }
    case 'run-through': {
      const media = await namedMedia(
        input.clipIds.length > 0
          ? input.clipIds
          : (await listClipChoices(await currentRigId())).slice(0, mostClips).map(({ clip: { id } }) => id),
      );
      if (media.length === 0) throw new RequestError('no-clip-plays', {}, 'clipIds');
      const widest = media.reduce(
        (best, { ref }) => (ref.width > best.width ? ref : best),
        (media[0] as { ref: MediaRef }).ref,
      );
      return createTimeline(runThrough(media, input.rate ?? widest.rate, widest, input.seconds ?? 3));
    }
    case 'conform':
      return createTimeline(
        conformed((await requireTimeline(input.timelineId ?? '')).document, input.rate ?? rational(25)),
      );
    case 'worst-minute':
      return createTimeline(await heaviestMinute(input.timelineId ?? ''));
  }
}

/** The minute of a timeline that reads and works most: bytes, and layers with their effects, each by its share of the whole. */
async function heaviestMinute(id: string): Promise<Timeline> {
  const { document } = await requireTimeline(id);
  const { media } = await filesFor(document, usedMedia(document), { read: 'originals', volumeId: null });
  const spec = await specFor(document, media);
  const slots = lengthOf(document);
  const plan = planCourse(
    spec.timeline,
    { from: 0, slots, speed: 1 },
    new Map(Object.entries(spec.media).map(([name, { packets }]) => [name, decodePacketTable(packets)])),
  );
  const bytes = plan.graph.bytes.reduce((sum, value) => sum + value, 0) || 1;
  const pieces = Float64Array.from(
    plan.contents,
    ({ layers, alongside }) =>
      layers.length + alongside.length + layers.reduce((sum, { effects }) => sum + effects.length, 0),
  );
  const allPieces = pieces.reduce((sum, value) => sum + value, 0) || 1;
  const { from, slots: length } = worstMinute(
    plan.graph.bytes.map((value, slot) => value / bytes + (pieces[slot] as number) / allPieces),
    document.rate,
  );
  return { ...excerpt(document, from, length), name: `${document.name}, heaviest minute` };
}

/** A file of the library that a medium is, or may be. */
export interface LinkedFile {
  readonly ref: MediaRef;
  readonly path: string;
  readonly volumeName: string;
  readonly simulated: boolean;
}

/** What relinking came to, medium by medium. */
export interface RelinkReport {
  readonly found: readonly {
    readonly mediaId: string;
    readonly name: string;
    readonly by: RelinkReason;
    readonly file: LinkedFile;
  }[];
  /** Media that several different files may be: somebody has to choose. */
  readonly choices: readonly {
    readonly mediaId: string;
    readonly name: string;
    readonly by: RelinkReason;
    readonly files: readonly LinkedFile[];
  }[];
  readonly missing: readonly { readonly mediaId: string; readonly name: string }[];
}

export interface ImportReport extends RelinkReport {
  /** Of the timeline that was made; null where it was only read. */
  readonly id: string | null;
  readonly name: string;
  readonly rate: Rational;
  readonly tracks: number;
  readonly items: number;
  readonly slots: number;
  /** What was read and is not kept, or is kept otherwise than it stands in the file. */
  readonly notes: readonly string[];
}

/** Name of the version that keeps a timeline as its file has it, with nothing linked. */
const asImported = 'as imported';

/**
 * Reads an interchange file into a new timeline and relinks its media from the library; as it came it is kept as a version.
 * @throws RequestError with the place that is wrong
 */
export async function importTimeline({
  fileName,
  text,
  rate,
  store,
  chosen,
}: InferType<typeof importInput>): Promise<ImportReport> {
  const { timeline, notes } = parseInterchange(fileName, text, rate);
  const relinked = relinkFrom(await relinkLibrary(), timeline, new Map(Object.entries(chosen)));
  const { tracks } = timeline;
  const id = store ? await createTimeline(relinked.timeline) : null;
  if (id !== null) await keepVersion(id, timeline, asImported);
  return {
    id,
    name: timeline.name,
    rate: timeline.rate,
    tracks: tracks.length,
    items: tracks.reduce((sum, { items }) => sum + items.length, 0),
    slots: lengthOf(timeline),
    notes,
    ...relinked.report,
  };
}

/** The files that media can be relinked to. */
export interface RelinkLibrary {
  readonly clips: ReadonlyMap<string, ClipWithVolume>;
  readonly candidates: readonly Candidate[];
}

/** All files of this rig's library. */
export async function relinkLibrary(): Promise<RelinkLibrary> {
  const clips = new Map((await listClips(await currentRigId())).map((clip) => [clip.id, clip]));
  const candidates = [...clips.values()].flatMap((clip): Candidate[] => {
    const ref = clip.status === 'ready' ? mediaRefOf(clip) : null;
    return ref ? [{ ...ref, clipId: clip.id, volumeId: clip.volumeId }] : [];
  });
  return { clips, candidates };
}

/** Relinks a timeline's missing media from the library, and tells what was matched by what. */
export function relinkFrom(
  { clips, candidates }: RelinkLibrary,
  timeline: Timeline,
  chosen: ReadonlyMap<string, string> = new Map(),
): { timeline: Timeline; report: RelinkReport } {
  const { timeline: linked, found, choices, missing } = relinkAll(timeline, candidates, chosen);
  const nameOf = (mediaId: string) => timeline.media[mediaId]?.name ?? mediaId;
  const fileOf = (mediaId: string, candidate: Candidate): LinkedFile => {
    const clip = clips.get(candidate.clipId);
    return {
      ref: linkedRef(timeline.media[mediaId], candidate),
      path: clip?.path ?? candidate.name,
      volumeName: clip?.volumeName ?? '',
      simulated: clip !== undefined && clip.volumeStandIn !== null,
    };
  };
  const report: RelinkReport = {
    found: [...found].map(([mediaId, { reason, file }]) => ({
      mediaId,
      name: nameOf(mediaId),
      by: reason,
      file: fileOf(mediaId, file),
    })),
    choices: [...choices].map(([mediaId, { candidates: files, reason }]) => ({
      mediaId,
      name: nameOf(mediaId),
      by: reason,
      files: files.map((file) => fileOf(mediaId, file)),
    })),
    missing: missing.map((mediaId) => ({ mediaId, name: nameOf(mediaId) })),
  };
  return { timeline: linked, report };
}

function parseInterchange(fileName: string, text: string, rate: Rational) {
  try {
    return /\.edl$/i.test(fileName) || !text.trimStart().startsWith('{')
      ? parseEdl(text, rate)
      : parseOtio(text);
  } catch (error) {
    if (error instanceof EdlError || error instanceof OtioError)
      throw new RequestError('file-unreadable', { name: fileName, problem: error.message });
    throw error;
  }
}

/** Looks for a timeline's missing media again. Saves what was found. */
export async function relinkTimeline(
  id: string,
): Promise<RelinkReport & { readonly revision: number; readonly document: Timeline }> {
  const { document, revision } = await requireTimeline(id);
  const present = new Set(
    (await getClips(Object.values(document.media).flatMap(({ clipId }) => clipId ?? [])))
      .filter(({ status }) => status === 'ready')
      .map((clip) => clip.id),
  );
  const asMissing: Timeline = {
    ...document,
    media: Object.fromEntries(
      Object.entries(document.media).map(([media, ref]) => [
        media,
        ref.clipId !== null && present.has(ref.clipId) ? ref : { ...ref, clipId: null },
      ]),
    ),
  };
  const { timeline, report } = relinkFrom(await relinkLibrary(), asMissing);
  const saved = await saveDocument(id, { revision, document: timeline });
  return { ...saved, document: timeline, ...report };
}

/** An interchange file of a timeline, with what it cannot carry. @param trackId of an edit list: the track it holds */
export async function exportTimeline(
  id: string,
  format: 'otio' | 'edl',
  trackId: string | null,
): Promise<{ text: string; fileName: string; losses: readonly string[] }> {
  const { document } = await requireTimeline(id);
  const fileName = `${document.name.replace(/[^\w.-]+/g, '_').slice(0, 80)}.${format}`;
  if (format === 'otio') return { text: writeOtio(document), fileName, losses: otioLosses(document) };
  const track = document.tracks.find((one) => one.id === trackId) ?? document.tracks[0];
  if (!track) throw new RequestError('no-track');
  return { text: writeEdl(document, track), fileName, losses: edlLosses(document, track) };
}

/** Takes a `.cube` table in. @throws RequestError with the line that is wrong */
export async function createLook(
  name: string,
  text: string,
): Promise<{ id: string; name: string; dimensions: 1 | 3; size: number }> {
  try {
    const { dimensions, size, title } = parseCube(text);
    const look = {
      id: newId(),
      name: name.replace(/\.cube$/i, '') || title || 'Look',
      dimensions,
      size,
    };
    await addLook({ ...look, cube: text });
    return look;
  } catch (error) {
    if (error instanceof CubeError)
      throw new RequestError('file-unreadable', { name, problem: error.message });
    throw error;
  }
}

export { listLooks as looksKept };

export async function lookText(id: string): Promise<{ name: string; cube: string }> {
  const [look] = await getLooks([id]);
  if (!look) throw new RequestError('no-such-look');
  return look;
}

/** What becomes of the sound of a run: it is made into a file, or goes along where the scan noted where it lies. */
export type SoundUse = 'none' | 'exported' | 'played';

/**
 * The course of a run with the files that it reads.
 * @param sound is needed of parts too that are shown from what was rendered
 * @throws RequestError when nothing of it is pre-rendered where that is asked for
 */
export async function readingOf(
  id: string,
  document: Timeline,
  plain: Course,
  choice: MediaChoice,
  sound: SoundUse = 'none',
): Promise<{ course: Course } & Awaited<ReturnType<typeof filesFor>>> {
  if (!choice.prerendered)
    return { course: plain, ...(await filesFor(document, usedMedia(document), choice)) };
  const rendered = await usablePrerenders(id, document, choice);
  const course: Course = { ...plain, prerendered: rendered.parts };
  if (prerenderedSlots(course) === 0) throw new RequestError('stretch-not-prerendered', {}, 'prerendered');
  const used = mediaOfCourse(document, course, sound !== 'none');
  const { media, missing } = await filesFor(document, used, choice);
  for (const [part, use] of Object.entries(rendered.media)) if (used.has(part)) media[part] = use;
  if (sound !== 'played') return { course, media, missing };
  const shown = mediaOfCourse(document, course, false);
  const read = Object.entries(media).filter(([of, use]) => shown.has(of) || use.sound);
  return { course, media: Object.fromEntries(read), missing };
}

/** What a trial of a timeline records: the version that is played and the files that will be read. @throws RequestError where `readingOf` does, and when it is empty */
export async function subjectFor(
  id: string,
  course: Course | null,
  choice: MediaChoice,
  sound: SoundUse = 'none',
): Promise<TimelineSubject> {
  const { document } = await requireTimeline(id);
  const slots = lengthOf(document);
  if (slots === 0) throw new RequestError('timeline-empty');
  const reading = await readingOf(id, document, course ?? { from: 0, slots, speed: 1 }, choice, sound);
  const { name, rate, width, height, startTimecode } = document;
  return {
    timeline: {
      id,
      version: await keepVersion(id, document, null),
      name,
      rate,
      width,
      height,
      slots,
      read: choice.read,
      ...reading,
    },
    startTimecode,
  };
}

/** A playback trial of a timeline that is to be made. */
export function timelineTrial(
  subject: TimelineSubject,
  settings: Pick<
    PlaybackSettings,
    | 'scale'
    | 'policy'
    | 'threads'
    | 'warm'
    | 'depth'
    | 'fields'
    | 'meanwhile'
    | 'sound'
    | 'decoding'
    | 'cache'
    | 'underWay'
  >,
  demo: number,
): NewTrial<'playback'> {
  return {
    kind: 'playback',
    timelineId: subject.timeline.id,
    volumeIds: volumesOfTrial(subject),
    simulated: volumesOf(subject).simulated || isSimulatedDecoding(settings.decoding),
    subject,
    settings: { ...settings, processing: true, buffers: defaultBufferDepths, slotLimit: null, faults: [] },
    progress: { slotCount: subject.timeline.course.slots },
    demo,
  };
}

/** From a place to the end (or to the beginning, backwards), or round in a stretch. @throws RequestError when it lies outside */
export function courseOf(
  {
    from,
    to,
    speed,
    loops,
  }: Pick<InferType<typeof timelinePlaybackInput>, 'from' | 'to' | 'speed' | 'loops'>,
  slots: number,
): Course {
  if (slots === 0) throw new RequestError('timeline-empty');
  const end = Math.min(slots, to ?? slots);
  if (from >= end) throw new RequestError('begins-after-end', { from, end }, 'from');
  const start = speed < 0 ? end - 1 : from;
  const once = courseLength(end - from, speed < 0 ? end - from - 1 : 0, speed);
  return loops > 1
    ? { from: start, slots: once * loops, speed, loop: { from, to: end } }
    : { from: start, slots: once, speed, loop: null };
}
