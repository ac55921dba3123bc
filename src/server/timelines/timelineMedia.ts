import { join } from 'node:path';
import { decodePacketTable } from '@/core/media/packetTable';
import { originalFirst, roleOf } from '@/core/media/footage';
import { firstSlots, clipGraph, type FrameGraph } from '@/core/playback/work';
import { planCourse, type CoursePlan } from '@/core/timeline/course';
import { courseContents, courseSlot, type Course } from '@/core/timeline/flatten';
import { soundPlan } from '@/core/tasks/soundPlan';
import { mediaRefOf } from '@/core/timeline/mediaRef';
import { lookIdsOf, type MediaRef, type Timeline } from '@/core/timeline/model';
import {
  getClips,
  getPacketTable,
  getSoundTable,
  listClipsOfFootage,
  type ClipWithVolume,
} from '@/db/queries/clips';
import { getLooks, getVersion } from '@/db/queries/timelines';
import type { MediaUse, TimelineSubject } from '@/core/timeline/subject';
import type { PlayedTrial } from '@/db/kinds';
import type { SoundSource } from '@/engine/media/streamFacts';
import type { TimelineMediaSpec, TimelineSpec } from '@/engine/timeline/spec';
import { rankOf } from '../library/footage';

/** Which form of the footage a run reads: what the timeline names, or the lightest rendition there is; from a volume where one is chosen and holds it. */
export interface MediaChoice {
  readonly read: 'originals' | 'proxies';
  readonly volumeId: string | null;
  /** Show what was rendered before from there, where it still holds what the timeline has. */
  readonly prerendered?: boolean;
}

/** The files that a timeline's media are read from, under a choice; media that are not at hand are named. */
export async function filesFor(
  timeline: Timeline,
  used: ReadonlySet<string>,
  choice: MediaChoice,
): Promise<{ media: Record<string, MediaUse>; missing: string[] }> {
  const wanted = [...used].flatMap((id) => {
    const ref = timeline.media[id];
    return ref ? [{ id, ref }] : [];
  });
  const named = new Map(
    (await getClips(wanted.flatMap(({ ref }) => ref.clipId ?? []))).map((clip) => [clip.id, clip]),
  );
  const related = await listClipsOfFootage(
    ...[...named.values()].flatMap(({ footageId }) => footageId ?? []),
  );
  const media: Record<string, MediaUse> = {};
  const missing: string[] = [];
  for (const { id, ref } of wanted) {
    const clip = named.get(ref.clipId ?? '');
    const use =
      clip &&
      fileFor(
        ref,
        clip,
        clip.footageId ? related.filter(({ footageId }) => footageId === clip.footageId) : [clip],
        choice,
      );
    if (use) media[id] = use;
    else missing.push(ref.name);
  }
  return { media, missing };
}

/** The file that serves for a clip itself under a choice; null when no form of it can be played. */
export async function formOf(clip: ClipWithVolume, choice: MediaChoice): Promise<MediaUse | null> {
  const ref = mediaRefOf(clip);
  return (
    ref && fileFor(ref, clip, clip.footageId ? await listClipsOfFootage(clip.footageId) : [clip], choice)
  );
}

/** Which of a footage's clips serves for a medium. */
function fileFor(
  ref: MediaRef,
  named: ClipWithVolume,
  ofFootage: readonly ClipWithVolume[],
  { read, volumeId }: MediaChoice,
): MediaUse | null {
  const forms = ofFootage
    .filter(
      (clip) =>
        clip.status === 'ready' &&
        clip.format &&
        clip.frames !== null &&
        Math.abs(clip.frames - (named.frames ?? 0)) <= 1,
    )
    .sort((a, b) => originalFirst(rankOf(a), rankOf(b)) || a.path.localeCompare(b.path));
  // A proxy has fewer pixels or bits a second than what the timeline names.
  const wanted =
    read === 'proxies'
      ? forms
          .filter((clip) => roleInUse(clip, forms) === 'rendition')
          .sort((a, b) => originalFirst(rankOf(b), rankOf(a)))
      : forms.filter(
          (clip) =>
            clip.id === named.id || (clip.contentHash !== null && clip.contentHash === named.contentHash),
        );
  const candidates = wanted.length > 0 ? wanted : forms.filter((clip) => clip.id === named.id);
  const lightest = candidates[0];
  const alike = candidates.filter(
    (clip) => clip.contentHash === (read === 'proxies' ? lightest : named)?.contentHash,
  );
  const clip =
    alike.find((one) => one.volumeId === (volumeId ?? named.volumeId)) ??
    alike.find(({ id }) => id === named.id) ??
    alike[0] ??
    lightest;
  return clip ? mediaUseOf(ref, clip, roleInUse(clip, forms)) : null;
}

/** A clip as the file that a medium is read from; null where it was not read fully. */
export function mediaUseOf(
  { name }: Pick<MediaRef, 'name'>,
  clip: ClipWithVolume,
  role: MediaUse['role'],
): MediaUse | null {
  if (!clip.format) return null;
  return {
    name,
    clipId: clip.id,
    path: clip.path,
    volumeId: clip.volumeId,
    volumeName: clip.volumeName,
    standIn: clip.volumeStandIn,
    contentHash: clip.contentHash,
    format: clip.format,
    scan: clip.identity?.scan ?? null,
    sound: clip.sound?.label ?? null,
    role,
  };
}

/** A byte-for-byte copy of the original serves as the original. */
function roleInUse(clip: ClipWithVolume, forms: readonly ClipWithVolume[]): MediaUse['role'] {
  const role = roleOf(clip, forms);
  return role === 'copy' && clip.contentHash === forms[0]?.contentHash
    ? 'original'
    : role === 'copy'
      ? 'rendition'
      : role;
}

/** Media that a run is shown from, and those whose sound is mixed where that is asked for. */
export function mediaOfCourse(timeline: Timeline, course: Course, withSound: boolean): Set<string> {
  const used = new Set(withSound ? soundPlan(timeline, course).map(({ media }) => media) : []);
  const contentAt = courseContents(timeline, course);
  for (let slot = 0; slot < course.slots; slot++) {
    const { layers, alongside } = contentAt(courseSlot(course, slot));
    for (const { media } of [...layers, ...alongside]) if (media !== null) used.add(media);
  }
  return used;
}

/** Media that items of a timeline's tracks use. */
export function usedMedia(timeline: Timeline): Set<string> {
  const used = new Set<string>();
  for (const { items } of timeline.tracks)
    for (const { source } of items) {
      if (source.kind === 'clip' || source.kind === 'still') used.add(source.media);
      if (source.kind === 'angles') for (const { media } of source.angles) used.add(media);
    }
  return used;
}

/** All that a process needs to show a timeline with the given files. A file that is no longer in the library is left out. */
export async function specFor(
  timeline: Timeline,
  uses: Readonly<Record<string, MediaUse>>,
): Promise<TimelineSpec> {
  const clips = await clipsUsed(uses);
  const media: Record<string, TimelineMediaSpec> = {};
  for (const [id, { clipId }] of Object.entries(uses)) {
    const clip = clips.get(clipId);
    const packets = clip && (await getPacketTable(clipId));
    if (!clip?.setup || !clip.format || !packets) continue;
    media[id] = {
      path: join(clip.volumePath, clip.path),
      volumeId: clip.volumeId,
      volumeName: clip.volumeName,
      standIn: clip.volumeStandIn,
      setup: clip.setup,
      format: clip.format,
      rate: clip.format.rate,
      packets,
      sound: await soundSource(clip),
      knownFaults: clip.faults ?? undefined,
    };
  }
  return { timeline: withForms(timeline, clips, uses), media, looks: await looksOf(timeline) };
}

/** A clip's sound for a run that plays it; null where it has none. */
export async function soundSource({ id, sound }: ClipWithVolume): Promise<SoundSource | null> {
  const packets = sound && (await getSoundTable(id));
  return packets && { setup: sound, packets };
}

/** An edited timeline for a process that has the files open already. */
export async function editFor(
  timeline: Timeline,
  uses: Readonly<Record<string, MediaUse>>,
): Promise<Pick<TimelineSpec, 'timeline' | 'looks'>> {
  return { timeline: withForms(timeline, await clipsUsed(uses), uses), looks: await looksOf(timeline) };
}

async function clipsUsed(
  uses: Readonly<Record<string, MediaUse>>,
): Promise<ReadonlyMap<string, ClipWithVolume>> {
  return new Map(
    (await getClips([...new Set(Object.values(uses).map(({ clipId }) => clipId))])).map((clip) => [
      clip.id,
      clip,
    ]),
  );
}

/** The timeline with the rates and lengths of the files that are really read, so that its frames are exact for them; rendered parts are media of it too. */
function withForms(
  timeline: Timeline,
  clips: ReadonlyMap<string, ClipWithVolume>,
  uses: Readonly<Record<string, MediaUse>>,
): Timeline {
  const media: Record<string, MediaRef> = Object.fromEntries(
    Object.entries(timeline.media).map(([id, ref]) => {
      const clip = clips.get(uses[id]?.clipId ?? '');
      return [
        id,
        clip?.format && clip.frames !== null ? { ...ref, frames: clip.frames, rate: clip.format.rate } : ref,
      ];
    }),
  );
  for (const [id, { clipId, role }] of Object.entries(uses)) {
    const clip = role === 'pre-render' ? clips.get(clipId) : null;
    const ref = clip && mediaRefOf(clip);
    if (ref) media[id] = ref;
  }
  return { ...timeline, media };
}

async function looksOf(timeline: Timeline): Promise<Record<string, string>> {
  return Object.fromEntries((await getLooks([...lookIdsOf(timeline)])).map(({ id, cube }) => [id, cube]));
}

/** The document that a trial played, with the files it read; null when either is gone. */
export async function playedSpec({
  timeline: { id, version, media },
}: TimelineSubject): Promise<TimelineSpec | null> {
  const row = await getVersion(id, version);
  return row && specFor(row.document, media);
}

/** How the slots of a trial hang together, with the course that was played where it was a timeline's; null when what it played is gone. */
export async function playedGraph(
  { subject, clipId }: Pick<PlayedTrial, 'subject' | 'clipId'>,
  slots: number,
): Promise<{ graph: FrameGraph; played: Awaited<ReturnType<typeof playedPlan>> } | null> {
  if (subject.timeline) {
    const played = await playedPlan(subject);
    return played && { graph: firstSlots(played.plan.graph, slots), played };
  }
  const packets = clipId ? await getPacketTable(clipId) : null;
  return packets && { graph: clipGraph(decodePacketTable(packets), slots), played: null };
}

/** The course of a trial worked out again; null when its timeline or one of its files is gone. */
export async function playedPlan(
  subject: TimelineSubject,
): Promise<{ plan: CoursePlan; timeline: Timeline } | null> {
  const spec = await playedSpec(subject);
  if (!spec || Object.keys(spec.media).length < Object.keys(subject.timeline.media).length) return null;
  const tables = new Map(
    Object.entries(spec.media).map(([id, { packets }]) => [id, decodePacketTable(packets)]),
  );
  return { plan: planCourse(spec.timeline, subject.timeline.course, tables), timeline: spec.timeline };
}
