import { mediaRefOf } from '@/core/timeline/mediaRef';
import type { InferType } from '@/core/edge/strict';
import { EdlError } from '@/core/formats/edl/error';
import { parseEdl } from '@/core/formats/edl/read';
import { edlLosses, writeEdl } from '@/core/formats/edl/write';
import { OtioError } from '@/core/formats/otio/json';
import { parseOtio } from '@/core/formats/otio/read';
import { otioLosses, writeOtio } from '@/core/formats/otio/write';
import type { Rational } from '@/core/time/rational';
import { lengthOf, type MediaRef, type Timeline } from '@/core/timeline/model';
import { linkedRef, relinkAll, type Candidate, type RelinkReason } from '@/core/timeline/relink';
import { getClips, listClips, type ClipWithVolume } from '@/db/queries/clips';
import { keepVersion } from '@/db/queries/timelines';
import { RequestError } from '../platform/errors';
import { currentRigId } from '../platform/rig';
import type { importInput } from '@/core/asked/timelines';
import { createTimeline, requireTimeline, saveDocument } from './timelines';

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
