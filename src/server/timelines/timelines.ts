import { mediaRefOf } from '@/core/timeline/mediaRef';
import type { InferType } from '@/core/edge/strict';
import { decodePacketTable } from '@/core/media/packetTable';
import { rational, type Rational } from '@/core/time/rational';
import { planCourse } from '@/core/timeline/course';
import { excerpt } from '@/core/timeline/edits';
import { conformed, graded, runThrough, sideBySide, worstMinute } from '@/core/timeline/loads';
import { emptyTimeline, lengthOf, type MediaRef, type Timeline } from '@/core/timeline/model';
import { soundTimeline, timelineFrom } from '@/core/timeline/schema';
import { getClips } from '@/db/queries/clips';
import { listPrerenders } from '@/db/queries/prerenders';
import {
  addTimeline,
  getTimeline,
  getVersion,
  keepVersion,
  listTimelines,
  listVersions,
  removeTimeline,
  saveTimeline,
  type TimelineRow,
} from '@/db/queries/timelines';
import { RequestError } from '../platform/errors';
import { newId } from '../platform/ids';
import { currentRigId } from '../platform/rig';
import { filesFor, specFor, usedMedia } from './timelineMedia';
import { discardPrerender } from './prerenders';
import { mostClips, type loadInput } from '@/core/asked/timelines';
import { listClipChoices } from '../library/clipChoices';

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
