import { frameStructureLabel } from '@/core/media/frameStructure';
import { formatLabel } from '@/core/media/format';
import { warningsOf, type Known } from '@/core/media/warnings';
import { rateLabel } from '@/core/time/rational';
import { kindNames, namesOf, type Made } from '@/core/kinds/kinds';
import type { Grade } from '@/core/playback/grade';
import { doubtOf, type Doubt } from '@/core/rig/doubt';
import type { LoadSummary } from '@/core/rig/load';

/** Longest name that a list is narrowed by, in characters: an index holds rows of 2 704 bytes. */
const mostCharacters = 300;

export interface ListedNames {
  /** Subject. */
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

/** What is known of a clip that its words in the library are made of. */
export interface ClipFacts extends Known {
  readonly path: string;
  readonly problem: string | null;
}

/** What the library is searched by of a clip, and what to know of it in a few words each. */
export function clipListed(clip: ClipFacts): { words: string; warnings: string[] } {
  const { path, problem, format, structure, identity, startTimecode } = clip;
  const warnings = warningsOf(clip).map(({ short }) => short);
  const words = [
    path,
    format && formatLabel(format),
    format && rateLabel(format.rate),
    format?.container,
    structure && frameStructureLabel(structure),
    startTimecode,
    identity?.scan,
    identity?.colour.transfer,
    problem,
    ...warnings,
  ];
  return { words: words.filter(Boolean).join('\n').toLowerCase(), warnings };
}
