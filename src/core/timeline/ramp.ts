import type { PlaybackScale } from '../playback/slots';
import { greatest, least } from '../stats/extremes';

/** What a ramp adds: streams of one clip side by side, or grades on one clip. */
export type RampFamily = 'streams' | 'grades';

/** One level that was played. */
export interface RampProbe {
  readonly scale: PlaybackScale;
  readonly level: number;
  readonly slots: number;
  readonly dropped: number;
  /** Bits of stages that most of its drops were charged to; 0 without drops. */
  readonly charge: number;
}

/** The edge at one scale. */
export interface RampEdge {
  readonly scale: PlaybackScale;
  /** Largest level that played without a drop; 0: not even the first did. */
  readonly plays: number;
  /** Smallest level that dropped; null: the most that was tried still plays. */
  readonly drops: number | null;
  readonly charge: number;
}

export interface RampResult {
  readonly family: RampFamily;
  readonly edges: readonly RampEdge[];
}

/**
 * The next level to play at a scale, or null when the edge is found: doubles until something drops,
 * then halves the gap. An edge between n and n + 1 takes about 2 log2(n) steps.
 */
export function nextLevel(
  probes: readonly Pick<RampProbe, 'level' | 'dropped'>[],
  most: number,
): number | null {
  const { plays, drops } = edgeOf(probes);
  if (drops === null) return plays >= most ? null : Math.min(most, Math.max(1, plays * 2));
  return drops - plays <= 1 ? null : Math.floor((plays + drops) / 2);
}

function edgeOf(probes: readonly Pick<RampProbe, 'level' | 'dropped'>[]): {
  plays: number;
  drops: number | null;
} {
  const dropping = probes.filter(({ dropped }) => dropped > 0).map(({ level }) => level);
  const drops = dropping.length > 0 ? least(dropping) : null;
  // A level above one that dropped proves nothing.
  const playing = probes
    .filter(({ dropped, level }) => dropped === 0 && (drops === null || level < drops))
    .map(({ level }) => level);
  return { plays: greatest(playing, 0), drops };
}

/** The edges that the probes found, in the order of the scales. */
export function rampResult(
  family: RampFamily,
  scales: readonly PlaybackScale[],
  probes: readonly RampProbe[],
): RampResult {
  return {
    family,
    edges: scales.flatMap((scale) => {
      const own = probes.filter((probe) => probe.scale === scale);
      if (own.length === 0) return [];
      const edge = edgeOf(own);
      return [{ scale, ...edge, charge: own.find(({ level }) => level === edge.drops)?.charge ?? 0 }];
    }),
  };
}

const nouns: Record<RampFamily, [string, string]> = {
  streams: ['stream', 'streams'],
  grades: ['grade', 'grades'],
};

export function levelLabel(family: RampFamily, level: number): string {
  return `${level} ${nouns[family][level === 1 ? 0 : 1]}`;
}
