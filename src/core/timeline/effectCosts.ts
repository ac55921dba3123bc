import { fixed } from '../format';
import type { PlaybackScale } from '../playback/slots';
import { median } from '../stats/quantiles';
import type { EffectKind, EffectSettings } from './model';

/** Effects as they are calibrated, with values that do real work. */
export const calibratedEffects: readonly EffectSettings[] = [
  { kind: 'white-balance', gains: [1.06, 1, 0.95] },
  { kind: 'lift-gamma-gain', lift: [0.01, 0, -0.01], gamma: [1.05, 1, 0.98], gain: [0.98, 1, 1.02] },
  { kind: 'saturation', amount: 1.1 },
  { kind: 'lut', lookId: 'calibration', name: 'calibration' },
  {
    kind: 'transform',
    crop: { x: 0, y: 0, width: 1, height: 1 },
    place: { x: 0.25, y: 0.25, width: 0.5, height: 0.5 },
    opacity: 0.8,
  },
  { kind: 'title', text: 'Tidewrack', size: 0.1, x: 0.5, y: 0.5 },
  { kind: 'blur', radius: 0.01 },
];

/** Measured times at one playback scale, µs per slot. */
export interface ScaleEffectCosts {
  readonly scale: PlaybackScale;
  /** Scaling and converting one layer without effects. */
  readonly baseUs: number;
  /** Laying a second layer of full size over the first, its scaling included. */
  readonly layerUs: number;
  /** What each effect adds; below zero where it saves more than it takes (a transform makes the picture smaller). */
  readonly effects: Readonly<Partial<Record<EffectKind, number>>>;
}

/** Measured times on a rig, µs per slot, at the playback rasters of one timeline. */
export interface EffectCosts {
  readonly width: number;
  readonly height: number;
  /** Processed in 8 bits a channel. */
  readonly scales: readonly ScaleEffectCosts[];
  /** Processed in 16, on a picture of 10; absent in calibrations from before there was any. */
  readonly deep?: readonly ScaleEffectCosts[];
}

/** A slot processed without and with something, one right after the other, µs. */
export interface CostPair {
  readonly plainUs: number;
  readonly withUs: number;
}

/**
 * What something adds to a slot's processing, µs: the median of differences of runs that followed each other, because a
 * machine that becomes slower for a while makes both of a pair slower, and times that were taken apart cannot be
 * subtracted.
 */
export function addedUs(pairs: readonly CostPair[]): number {
  return median(pairs.map(({ plainUs, withUs }) => withUs - plainUs));
}

/**
 * µs that a slot's processing takes by calibrated costs: layers in their number, and their effects. Rasters of another size are scaled by their pixels.
 * @param deep worked in 16 bits a channel
 */
export function processForecastUs(
  costs: EffectCosts,
  scale: PlaybackScale,
  pixels: number,
  layers: readonly { readonly effects: readonly { readonly kind: EffectKind }[] }[],
  deep = false,
): number {
  const at = (deep ? (costs.deep ?? []) : costs.scales).find((one) => one.scale === scale);
  if (!at || layers.length === 0) return 0;
  const size = pixels / (costs.width * costs.height);
  const effects = layers.reduce(
    (sum, layer) => sum + layer.effects.reduce((own, { kind }) => own + (at.effects[kind] ?? 0), 0),
    0,
  );
  return Math.max(0, (at.baseUs + (layers.length - 1) * at.layerUs + effects) * size);
}

/** A calibration table in the `.cube` form: a slight curve, 17 points on each edge. */
export function calibrationCube(): string {
  const size = 17;
  const lines = [`LUT_3D_SIZE ${size}`];
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++)
        lines.push([r, g, b].map((value) => fixed((value / (size - 1)) ** 0.95, 6)).join(' '));
  return `${lines.join('\n')}\n`;
}
