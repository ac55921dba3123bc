import { upTo } from '../format';
/**
 * An exact ratio of two integers, in lowest terms with a positive denominator.
 * Frame rates and durations are kept in this form because 24000/1001 has no
 * finite decimal: a float would drift by a frame within hours.
 */
export interface Rational {
  /** @TJS-type integer */
  readonly num: number;
  /**
   * @TJS-type integer
   * @minimum 1
   */
  readonly den: number;
}

/** Greatest common divisor of two integers (Euclid), never negative. */
function gcd(a: number, b: number): number {
  let x = Math.abs(a);
  let y = Math.abs(b);
  while (y !== 0) [x, y] = [y, x % y];
  return x;
}

/**
 * Returns num/den in lowest terms.
 * @throws RangeError when either part is no safe integer or the denominator is zero.
 */
export function rational(num: number, den = 1): Rational {
  if (!Number.isSafeInteger(num) || !Number.isSafeInteger(den)) {
    throw new RangeError(`A rational needs whole numbers, got ${num}/${den}`);
  }
  if (den === 0) throw new RangeError('A rational cannot have the denominator 0');
  const divisor = gcd(num, den) || 1;
  const sign = den < 0 ? -1 : 1;
  return { num: (sign * num) / divisor, den: (sign * den) / divisor };
}

/** The nearest float of a rational. For display and pacing only. */
export function toNumber(value: Rational): number {
  return value.num / value.den;
}

/** True when both are the same ratio. */
export function equals(a: Rational, b: Rational): boolean {
  return a.num === b.num && a.den === b.den;
}

/** Exact product. */
export function multiply(a: Rational, b: Rational): Rational {
  const left = rational(a.num, b.den);
  const right = rational(b.num, a.den);
  return rational(left.num * right.num, left.den * right.den);
}

/** Due time in microseconds after t0 of slot `index` at a frame rate. Exact up to the final division. */
export function slotDueUs(index: number, rate: Rational): number {
  return (index * 1_000_000 * rate.den) / rate.num;
}

/** A ratio as files have it: `24`, `24000/1001`. */
export const ratioText = ({ num, den }: Rational): string => (den === 1 ? String(num) : `${num}/${den}`);

/**
 * The frame rate as a technician writes it: "24", "23.976", "29.97".
 * The exact rational stands beside it where it is no whole number.
 */
export function rateLabel(rate: Rational): string {
  if (rate.den === 1) return String(rate.num);
  return `${upTo(toNumber(rate), 3)} (${rate.num}/${rate.den})`;
}
