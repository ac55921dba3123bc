import { percent } from '@/core/format';
import { plainName } from '@/core/simulated';
import type { TimelineSubject } from '@/core/timeline/subject';
import type { TrialStatus } from '@/db/kinds';
import type { CacheWay, ColdProof } from '@/core/media/coldProof';
import type { PlaybackSettings } from '@/core/playback/settings';

/** Statuses of a trial as the interface says them. */
export const statusWords: Record<TrialStatus, string> = {
  paused: 'paused',
  queued: 'waiting',
  running: 'running',
  done: 'done',
  cancelled: 'cancelled',
  failed: 'failed',
  crashed: 'crashed',
  hung: 'hung',
  interrupted: 'interrupted',
};

/** How the page of a trial that did not come to its end begins. */
export const endTitles: Record<TrialStatus, string> = {
  paused: 'Paused',
  queued: 'Waiting',
  running: 'Running',
  done: 'Done',
  cancelled: 'This trial was cancelled',
  failed: 'This trial failed',
  crashed: 'The trial process crashed',
  hung: 'The trial process hung and was ended',
  interrupted: 'This trial was interrupted',
};

export const policyWords: Record<PlaybackSettings['policy'], string> = {
  'hold-time': 'hold time',
  'every-frame': 'every frame',
};

/** Says how a run was kept cold, or that it was not. */
/** @param cache how it was asked to be read */
export function coldWords(cold: ColdProof, cache: CacheWay = 'past'): string {
  const before = cold.residentBefore === null ? 'not countable' : percent(cold.residentBefore);
  const start = cold.residentAtStart === null ? 'not countable' : percent(cold.residentAtStart);
  switch (cold.method) {
    case 'direct':
      return `Cold: every read went to the device past the system's cache. In memory before: ${before}; at the start: ${start}.`;
    case 'evicted':
      return cache === 'through'
        ? `Cold, through the system's cache with its read-ahead: the file was dropped from memory first. In memory before: ${before}; at the start: ${start}.`
        : `Cold: the file was dropped from memory first. In memory before: ${before}; at the start: ${start}.`;
    case 'warm':
      return `Warm: reads may have come from memory. In memory at the start: ${start}.`;
  }
}

/** The files that a run read, each with its role and volume. */
export function filesWords({ media }: TimelineSubject['timeline']): string {
  return Object.values(media)
    .map(
      ({ path, role, volumeName, standIn }) =>
        `${path} (${role}) from ${plainName(volumeName, standIn !== null)}`,
    )
    .join('; ');
}

/** How a run went over a timeline, in words. */
export function courseWords({ course, read, slots }: TimelineSubject['timeline']): string {
  const speed =
    course.speed === 1 ? '' : `${Math.abs(course.speed)}x ${course.speed < 0 ? 'backwards' : 'forwards'}, `;
  const stretch = course.loop
    ? `looped over ${course.loop.to - course.loop.from} slots, `
    : course.slots * Math.abs(course.speed) < slots
      ? `from slot ${course.from}, `
      : '';
  return `${speed}${stretch}${read}${course.prerendered ? ', from pre-rendered' : ''}`;
}
