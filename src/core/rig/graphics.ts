import { mean } from '../stats/quantiles';
import { greatest } from '../stats/extremes';

/** What a rig's graphics told at one look; null where the system does not tell. Loads are 0 to 1. */
export interface GraphicsLook {
  /** Of the busiest device, by whoever used it. */
  readonly graphicsLoad: number | null;
  /** Taken of the memory of all devices, by whoever took it. */
  readonly graphicsMemoryBytes: number | null;
  /** Of the engines that draw and compute, by the trial alone. */
  readonly trialGraphicsLoad: number | null;
  /** Of the engine that decodes. On some devices one and the same decodes and encodes: then both tell its load. */
  readonly trialDecodeEngineLoad: number | null;
  readonly trialEncodeEngineLoad: number | null;
  readonly trialGraphicsMemoryBytes: number | null;
}

export const noGraphics: GraphicsLook = {
  graphicsLoad: null,
  graphicsMemoryBytes: null,
  trialGraphicsLoad: null,
  trialDecodeEngineLoad: null,
  trialEncodeEngineLoad: null,
  trialGraphicsMemoryBytes: null,
};

interface MeanAndMost {
  readonly mean: number;
  readonly most: number;
}

/** What graphics told over a run: of each figure its mean and its most. */
export type GraphicsSummary = { readonly [Key in keyof GraphicsLook]: MeanAndMost | null };

/** @returns null where none of them told anything */
export function summariseGraphics(looks: readonly GraphicsLook[]): GraphicsSummary | null {
  const over = (key: keyof GraphicsLook): MeanAndMost | null => {
    const told = looks.map((look) => look[key]).filter((value) => value !== null);
    if (told.length === 0) return null;
    return {
      mean: mean(told),
      most: greatest(told),
    };
  };
  const keys = Object.keys(noGraphics) as (keyof GraphicsLook)[];
  const summary = Object.fromEntries(keys.map((key) => [key, over(key)])) as unknown as GraphicsSummary;
  return keys.some((key) => summary[key] !== null) ? summary : null;
}

/** What an engine does, by the name that its driver gives it; empty: nothing that is told of here. */
export function engineWork(name: string): readonly ('draw' | 'decode' | 'encode')[] {
  if (/^(gfx|render|rcs|compute|ccs|3d|gpu|shader|fragment|vertex)/i.test(name)) return ['draw'];
  if (/^(video-enhance|vecs)/i.test(name)) return [];
  if (/^(video|vcs)$/i.test(name)) return ['decode', 'encode'];
  if (/^enc/i.test(name)) return ['encode'];
  if (/^(dec|jpeg|vdec)/i.test(name)) return ['decode'];
  return [];
}
