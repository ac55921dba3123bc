import { faultAt, type Fault } from '../fault';

/** What is worked out of every picture. */
export const analysisWorks = ['slow-motion', 'blend', 'stabilise', 'track', 'matte'] as const;
export type AnalysisWork = (typeof analysisWorks)[number];

export const slowFactors = [2, 4, 8] as const;

/** How pictures are worked on; what a work has no use for is null. */
export interface AnalysisChoice {
  readonly work: AnalysisWork;
  /** Of slow motion and blending: pictures that are made of one. */
  readonly factor: number | null;
  /** Of tracking: points that are followed. */
  readonly points: number | null;
  /** Of a matte: the colour that goes, as `#rrggbb`, and how far from it a colour still goes, 0 to 1. */
  readonly colour: string | null;
  readonly tolerance: number | null;
}

interface WorkFacts {
  readonly name: string;
  /** What it does, in words, and how. */
  readonly about: string;
  /** What it did, at the head of its answer, and of what. */
  readonly did: string;
  readonly of: string;
}

export const analysisFacts: Readonly<Record<AnalysisWork, WorkFacts>> = {
  'slow-motion': {
    name: 'Slow motion, interpolated',
    about:
      'Pictures between two are worked out from how their blocks move (minterpolate, overlapped blocks).',
    did: 'Interpolated',
    of: 'slow motion',
  },
  blend: {
    name: 'Slow motion, blended',
    about: 'Pictures between two are mixed of both (minterpolate, blend).',
    did: 'Blended',
    of: 'slow motion',
  },
  stabilise: {
    name: 'Stabilise',
    about: 'The shift from picture to picture is found by block matching and taken back (deshake).',
    did: 'Stabilised',
    of: 'media',
  },
  track: {
    name: 'Track points',
    about:
      'Corners are found and followed from picture to picture (Lucas and Kanade’s optical flow, pyramids of 4 levels), forwards and back; they are drawn over the picture.',
    did: 'Tracked points through',
    of: 'media',
  },
  matte: {
    name: 'Matte by colour',
    about: 'What is of one colour becomes black, all else white (chromakey).',
    did: 'Pulled a matte of',
    of: 'media',
  },
};

/** Works that make several pictures of one. */
export const slows = (work: AnalysisWork): boolean => work === 'slow-motion' || work === 'blend';

/** A choice without what its work has no use for: it would be told as a condition, and is none. */
export function inUse({ work, factor, points, colour, tolerance }: AnalysisChoice): AnalysisChoice {
  return {
    work,
    factor: slows(work) ? factor : null,
    points: work === 'track' ? points : null,
    colour: work === 'matte' ? colour : null,
    tolerance: work === 'matte' ? tolerance : null,
  };
}

/** Pictures that a work makes of one; 1 where it makes as many as it takes. */
export const picturesPerSlot = ({ factor }: Pick<AnalysisChoice, 'factor'>): number => factor ?? 1;

/** Pictures that come of so many slots: between two of them as many as the factor says, and none behind the last. */
export function analysisFrames(slots: number, choice: Pick<AnalysisChoice, 'factor'> | null): number {
  return choice ? (slots - 1) * picturesPerSlot(choice) + 1 : slots;
}

/** What keeps a choice from being worked, with the field at fault; null where nothing does. */
export function analysisProblem({
  work,
  factor,
  points,
  colour,
  tolerance,
}: AnalysisChoice): Fault<string> | null {
  if (slows(work) && factor === null) return faultAt('factor', 'analysis-factor');
  if (work === 'track' && points === null) return faultAt('points', 'analysis-points');
  if (work === 'matte' && colour === null) return faultAt('colour', 'analysis-colour');
  if (work === 'matte' && tolerance === null) return faultAt('tolerance', 'analysis-tolerance');
  return null;
}

/** "slow motion, interpolated, 4 times slower". */
export function analysisWords({ work, factor, points, colour, tolerance }: AnalysisChoice): string {
  if (work === 'track') return `track ${points ?? 0} points`;
  return [
    analysisFacts[work].name.toLowerCase(),
    factor === null ? '' : `${factor} times slower`,
    colour === null ? '' : `${colour}, tolerance ${tolerance ?? 0}`,
  ]
    .filter(Boolean)
    .join(', ');
}

/** What an analysis found, beside its pictures. */
export interface AnalysisFound {
  readonly work: AnalysisWork;
  /** Of tracking: points that were found in the first picture, and those of them that were followed to the last. */
  readonly points: { readonly found: number; readonly kept: number } | null;
  /** Median way of a followed point from picture to picture, pixels; null where none was followed. */
  readonly pixelsPerFrame: number | null;
  /** Of a matte: share of the pictures that was left out, 0 to 1, mean over all. */
  readonly leftOut: number | null;
}
