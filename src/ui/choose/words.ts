import { quantity } from '@/core/format';
import type { MapPlace } from '@/server/decide/decision';

/** Whether the runs of a place were computed by a model of its rig. */
export function isModelled({ imported }: Pick<MapPlace, 'imported'>): boolean {
  return imported?.simulated ?? false;
}

/** A span of hours and minutes in a day: "2 h 15 min". */
export function daySpan(seconds: number | null): string {
  if (seconds === null) return 'not known';
  const minutes = Math.round(seconds / 60);
  return minutes < 60
    ? quantity(minutes, 'min')
    : `${quantity(Math.floor(minutes / 60), 'h')} ${quantity(minutes % 60, 'min')}`;
}
