import 'server-only';
import { fileName } from '@/core/media/fileName';
import { dateTime } from '@/core/format';
import { kindNames } from '@/core/kinds/kinds';
import { plainName } from '@/core/simulated';
import { findNamed, type NamedKind } from '@/db/queries/find';
import { readLibrary } from './library/clipList';
import { currentRigId } from './platform/rig';
import { readTrialList } from './trials/trialList';

/** Something that a person finds by its name, and where its page is. */
export interface FoundPage {
  readonly id: string;
  readonly group: 'Clips' | 'Volumes' | 'Timelines' | 'Series and matrices' | 'Briefs' | 'Trials';
  readonly name: string;
  /** What tells it from others of the name. */
  readonly note: string;
  readonly href: string;
}

/** Most that are given of each sort. */
const mostOfEach = 6;

const pages = {
  volume: ['Volumes', '/storage/volumes'],
  timeline: ['Timelines', '/timelines'],
  plan: ['Series and matrices', '/trials/plans'],
  brief: ['Briefs', '/choose'],
} as const satisfies Readonly<Record<NamedKind, readonly [FoundPage['group'], string]>>;

/** Finds clips, volumes, timelines, plans, briefs and trials of this rig by words of their names; nothing without words. */
export async function findByName(text: string): Promise<FoundPage[]> {
  const words = text.slice(0, 200).split(/\s+/).filter(Boolean);
  if (words.length === 0) return [];
  const rigId = await currentRigId();
  const [clips, trials, ...named] = await Promise.all([
    readLibrary({ text: words.join(' '), size: String(mostOfEach) }),
    readTrialList({ subject: words.join(' '), rig: rigId, size: String(mostOfEach) }),
    ...(Object.keys(pages) as NamedKind[]).map(async (kind): Promise<FoundPage[]> => {
      const [group, page] = pages[kind];
      const found = await findNamed(kind, rigId, words, mostOfEach);
      return found.map(({ id, name }) => ({ id, group, name, note: '', href: `${page}/${id}` }));
    }),
  ]);
  return [
    ...clips.rows.map(({ id, path, volumeName, simulated }): FoundPage => ({
      id,
      group: 'Clips',
      name: fileName(path),
      note: plainName(volumeName, simulated),
      href: `/media/clips/${id}`,
    })),
    ...named.flat(),
    ...trials.trials.map(({ id, name, kind, createdAt, href }): FoundPage => ({
      id,
      group: 'Trials',
      name,
      note: `${kindNames[kind]}, ${dateTime(createdAt)}`,
      href,
    })),
  ];
}
