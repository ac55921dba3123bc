import { equals, multiply, rational, toNumber, type Rational } from '../../time/rational';

/**
 * A motion effect (M2) gives the frames of its source that are shown a second; against the list's rate that is a speed.
 * Two ways of writing are in use for lists at 24000/1001 and its like: whole figures count in the list's base (024.0 is as
 * shot), decimals near a multiple of 1000/1001 are exact rates (023.976 is 24000/1001).
 */
export function motionSpeed(text: string, rate: Rational): Rational {
  const [, decimals = ''] = text.split('.');
  const scale = 10 ** decimals.length;
  const written = Math.round(Number(text) * scale);
  const base = Math.round(toNumber(rate));
  const nearest = Math.round((Number(text) * 1001) / 1000);
  const isOffWhole = written % scale !== 0;
  if (isOffWhole && Math.abs((nearest * 1000) / 1001 - Number(text)) <= 0.5 / scale + 1e-9)
    return multiply(rational(nearest * 1000, 1001), rational(rate.den, rate.num));
  const exact = rational(written, scale * base);
  // A figure with all its decimals was rounded: the simplest ratio that is written so is meant.
  return decimals.length < mostDecimals ? exact : simplest(written, scale, base);
}

/** Decimals that are written where a speed has no end in them. */
const mostDecimals = 6;

/** The ratio of the smallest terms that is written as `written / scale` against a base. */
function simplest(written: number, scale: number, base: number): Rational {
  const sign = Math.sign(written);
  const size = Math.abs(written);
  for (let den = 1; den <= 1_000; den++) {
    const num = Math.round((size * den) / (scale * base));
    if (Math.round((num * base * scale) / den) === size) return rational(sign * num, den);
  }
  return rational(written, scale * base);
}

/** Three digits and as many decimals as it takes, one at least. */
function figure(value: number): string {
  const [whole = '0', decimals = ''] = Math.abs(value).toFixed(mostDecimals).split('.');
  const ends = decimals.replace(/0+$/, '') || '0';
  return `${value < 0 ? '-' : ''}${whole.padStart(3, '0')}.${ends}`;
}

/** A speed as a motion effect says it; null where none says it exactly. */
export function motionText(speed: Rational, rate: Rational): string | null {
  const ways = [toNumber(speed) * Math.round(toNumber(rate)), toNumber(multiply(speed, rate))];
  return (
    ways
      .filter((way) => Math.abs(way) < 1e6)
      .map(figure)
      .find((text) => equals(motionSpeed(text, rate), speed)) ?? null
  );
}

/** A speed that no motion effect says, as near as one does. */
export const nearestMotion = (speed: Rational, rate: Rational): string =>
  figure(Math.max(-999_999, Math.min(999_999, toNumber(speed) * Math.round(toNumber(rate)))));
