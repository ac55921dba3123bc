import { kindNames, namesOf, type Made } from '@/core/kinds/kinds';
import type { Grade } from '@/core/playback/grade';
import { doubtOf, type Doubt } from '@/core/rig/doubt';
import type { LoadSummary } from '@/core/rig/load';

/** Longest name that a list is narrowed by, in characters: an index holds rows of 2 704 bytes. */
const mostCharacters = 300;

export interface ListedNames {
  /** What was tried. */
  readonly name: string;
  /** How, in a few words; empty where the kind says it all. */
  readonly how: string;
  readonly volumeNames: string[];
}

/** What a list shows of what a trial is made of. */
export function namesListed(trial: Made): ListedNames {
  try {
    const { subject, how, volumes } = namesOf(trial);
    return { name: subject.slice(0, mostCharacters), how, volumeNames: [...new Set(volumes)] };
  } catch {
    // A result from elsewhere may lack what names it; it is listed all the same.
    return { name: kindNames[trial.kind], how: '', volumeNames: [] };
  }
}

/** The grade in a summary of any kind; null where it has none. */
const gradeIn = (summary: object | null): Grade | null =>
  summary !== null && 'grade' in summary ? (summary.grade as Grade | null) : null;

/** What a list shows of how a trial ended; only of what is given. */
export function endListed({
  summary,
  load,
}: {
  readonly summary?: object | null;
  readonly load?: LoadSummary | null;
}): { grade?: Grade | null; doubt?: Doubt['word'] | null } {
  return {
    ...(summary === undefined ? {} : { grade: gradeIn(summary) }),
    ...(load === undefined ? {} : { doubt: doubtOf(load)?.word ?? null }),
  };
}
