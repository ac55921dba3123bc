import { rational, toNumber, type Rational } from '../../time/rational';
import { schemaOf, type Json } from './json';

const knownRates = [
  rational(24_000, 1001),
  rational(30_000, 1001),
  rational(60_000, 1001),
  rational(48_000, 1001),
  rational(120_000, 1001),
];

/** The exact rate that a decimal stands for: 23.976, 23.98 and 23.976023976 are 24000/1001. */
export function exactRate(value: number): Rational {
  const whole = Math.round(value);
  if (Math.abs(value - whole) < 0.0005) return rational(Math.max(1, whole));
  return (
    knownRates.find((rate) => Math.abs(toNumber(rate) - value) < 0.006) ??
    rational(Math.round(value * 1000), 1000)
  );
}

/** Most frames a second that a picture has; what has more is a rate of samples of sound. */
const mostPictureRate = 1_000;
export const isPictureRate = (rate: unknown): rate is number =>
  typeof rate === 'number' && rate >= 0.001 && rate <= mostPictureRate;

/** Deepest that objects are looked through; files that go deeper are refused where they are read. */
const deepest = 64;

/** The rate that most of the pictures' lengths are told in, the first of equals; null where there is none. */
export function pictureRate(root: unknown): number | null {
  const counts = new Map<number, number>();
  const visit = (value: unknown, depth: number): void => {
    if (typeof value !== 'object' || value === null || depth > deepest) return;
    const element = value as Json;
    if (schemaOf(element) === 'Track' && element.kind !== undefined && element.kind !== 'Video') return;
    for (const child of Array.isArray(element.children) ? element.children : []) visit(child, depth + 1);
    const { duration } = (element.source_range ?? {}) as { duration?: { rate?: unknown } | null };
    if (isPictureRate(duration?.rate)) counts.set(duration.rate, (counts.get(duration.rate) ?? 0) + 1);
  };
  visit(root, 0);
  let found: number | null = null;
  for (const [rate, times] of counts) if (found === null || times > (counts.get(found) ?? 0)) found = rate;
  return found;
}

/** A speed as a ratio of small whole numbers where there is one. */
export function exactSpeed(value: number): Rational {
  for (let den = 1; den <= 1001; den++)
    if (Math.abs(value * den - Math.round(value * den)) < 1e-7 * den)
      return rational(Math.round(value * den), den);
  return rational(Math.round(value * 10_000), 10_000);
}
