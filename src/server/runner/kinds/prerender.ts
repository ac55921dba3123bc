import { randomUUID } from 'node:crypto';
import { readdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { intermediateChoice } from '@/core/tasks/prerender';
import type { TrialRow } from '@/db/kinds';
import { addPrerender, listPrerenders } from '@/db/queries/prerenders';
import { getVersion } from '@/db/queries/timelines';
import { getVolume } from '@/db/queries/volumes';
import { EngineError } from '@/engine/errors';
import { discardPrerender, picturesOf, prerenderFolder } from '../../timelines/prerenders';
import type { MediaReader } from '../shared/mediaReader';
import { retryWhileAway } from '../shared/retryWhileAway';
import { recordFile } from '../shared/scan';
import { taskKind } from './shared/task';

/** Renders a part of a timeline and keeps it for runs that are told to use it. One of the same part made the same way takes the place of the one before. */
export const prerender = taskKind<'pre-render'>({
  work: ({ id, settings: { intermediate, likeness, threads, warm, depth, fields } }) => ({
    output: intermediateChoice(intermediate),
    likeness,
    threads,
    warm,
    depth,
    fields,
    keepIn: prerenderFolder,
    suffix: `${intermediate}_${id}`,
  }),
  keep: async (trial, { keptAs }, { parts }) => register(trial, keptAs ?? '', parts.reader),
  async sweep({ id, subject }, folder) {
    const rows = await retryWhileAway(() => listPrerenders(subject.timeline.id));
    if (rows.some(({ trialId }) => trialId === id)) return;
    for (const name of await readdir(join(folder, prerenderFolder)).catch(() => []))
      if (name.includes(id)) await rm(join(folder, prerenderFolder, name), { force: true });
  },
});

async function register(
  { id: trialId, subject, settings: { intermediate } }: TrialRow<'pre-render'>,
  path: string,
  reader: MediaReader,
): Promise<void> {
  const { timeline, target } = subject;
  const { from, slots } = timeline.course;
  const [version, volume, before] = await Promise.all([
    retryWhileAway(() => getVersion(timeline.id, timeline.version)),
    retryWhileAway(() => getVolume(target.volumeId)),
    retryWhileAway(() => listPrerenders(timeline.id)),
  ]);
  if (!volume) throw new EngineError('target-removed');
  if (!version) throw new EngineError('timeline-removed');
  const made = {
    from,
    to: from + slots,
    pictures: picturesOf(version.document, from, from + slots),
    read: timeline.read,
    intermediate,
  };
  const clipId = `prerender-${randomUUID()}`;
  await retryWhileAway(() =>
    recordFile({ id: clipId, volumeId: volume.id, folder: volume.path, path, made: 'pre-render' }, reader),
  );
  await retryWhileAway(() => addPrerender({ clipId, timelineId: timeline.id, trialId, ...made }));
  for (const old of before)
    if (
      old.volumeId === volume.id &&
      old.from === made.from &&
      old.to === made.to &&
      old.read === made.read &&
      old.intermediate === made.intermediate
    )
      await retryWhileAway(() => discardPrerender(old));
}
