import type { Metric } from '../../compare/compare';

/** Less of it is better. */
export const time = (id: string, name: string, unit: string): Metric => ({
  id,
  name,
  unit,
  better: 'lower',
  measures: 'time',
});
/** More of it is better. */
export const rate = (id: string, name: string, unit: string): Metric => ({
  id,
  name,
  unit,
  better: 'higher',
  measures: 'rate',
});
/** More of it is better, and it comes whole. */
export const count = (id: string, name: string, unit: string): Metric => ({
  id,
  name,
  unit,
  better: 'higher',
  measures: 'count',
});
/** A share: less of it is better, and none may be the best. */
export const share = (id: string, name: string, unit: string): Metric => ({
  id,
  name,
  unit,
  better: 'lower',
  measures: 'share',
});

/** Processor time of the trial's process. */
export const processorMetric = share('processor', 'Processor used, of all cores', '%');

export const inPercent = (part: number | null): number | null => (part === null ? null : part * 100);
