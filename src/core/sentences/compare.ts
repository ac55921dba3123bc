import type { Against, Metric, SideFigures } from '../compare/compare';
import { quantity, significant, times } from '../format';
import { fewestForRatio } from '../stats/bootstrap';

const figure = (value: number) => significant(value, 3);

/** A ratio to three figures. */
const factor = (value: number) => times(value, value >= 10 ? 1 : 2);

/** "1.76x as fast as the store, 43 % less time": always both. @param speed ratio of speeds, above 0 */
export function bothWays(speed: number, baseName: string | null = null): string {
  const less = (1 - 1 / speed) * 100;
  const words =
    Math.abs(less) < 0.5
      ? 'the same time'
      : less > 0
        ? `${quantity(less, '%', 0)} less time`
        : `${quantity(-less, '%', 0)} more time`;
  return `${factor(speed)} as fast${baseName === null ? '' : ` as ${baseName}`}, ${words}`;
}

/** What a comparison says, in words, with how far it can be believed. */
export function againstSentence(
  name: string,
  baseName: string,
  metric: Metric,
  { ratio, difference, verdict, figures }: Against,
  base: SideFigures,
): string {
  const what = metric.name.toLowerCase();
  if (figures.values.length === 0 || base.values.length === 0)
    return `${name}: no ${what} to hold against ${baseName}.`;
  const repeats = `${figures.values.length} and ${base.values.length} repeats`;
  const told = ratio
    ? bothWays(ratio.value, baseName)
    : `${figure(figures.median)} ${metric.unit} against ${figure(base.median)} ${metric.unit} of ${baseName}, ${what}`;
  const interval = ratio
    ? `${factor(ratio.low)} to ${factor(ratio.high)}`
    : difference
      ? `${figure(difference.low)} to ${figure(difference.high)} ${metric.unit}`
      : null;
  switch (verdict) {
    case 'too few repeats':
      return `${name}: ${told}, but too few repeats to tell (${repeats}; ${fewestForRatio} each make an interval).`;
    case 'no difference shown':
      return `${name}: no difference shown. ${told}, and the 95 % interval ${interval} holds ${ratio ? '1' : '0'} (${repeats}).`;
    case 'too small to matter':
      return `${name}: ${told} (95 % interval ${interval}, ${repeats}): less than what matters.`;
    case 'may be chance':
      return `${name}: no difference shown. ${told} (95 % interval ${interval}, ${repeats}), but among as many figures as are compared here one as far apart may be there by chance.`;
    case 'not comparable':
    case 'base':
      return `${name}: ${told}; no ratio can be made of 0.`;
    default:
      return `${name}: ${told} (95 % interval ${ratio ? '' : 'of the difference '}${interval}, ${repeats}).`;
  }
}
