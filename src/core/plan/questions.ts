import type { PlaybackScale } from '../playback/slots';
import type { PlanForm, PlanTest } from './matrix';

/** A ready-made matrix for a common question. What is not fixed by the question the person chooses. */
export interface PlanQuestion {
  readonly id: string;
  /** As a technician asks it. */
  readonly name: string;
  readonly says: string;
  readonly tests: readonly PlanTest[];
  readonly forms: readonly PlanForm[];
  readonly scales: readonly PlaybackScale[];
  /** Of which volumes it takes at first: all that hold the clips, or none (where they lie). */
  readonly volumes: 'all' | 'one' | 'none';
  /** What decodes: software alone where it is not said, or every device that can be used as well. */
  readonly devices?: 'all';
  /** How files are read: past the system's cache where it is not said, or through it as well. */
  readonly caches?: 'both';
  readonly repeats: number;
}

export const planQuestions = [
  {
    id: 'camera-from-volume',
    name: "Can I cut this camera's files from this volume?",
    says: 'Plays and scrubs the clips from one volume at full and half scale.',
    tests: ['playback', 'scrub'],
    forms: ['originals'],
    scales: ['full', 'half'],
    volumes: 'one',
    repeats: 3,
  },
  {
    id: 'original-or-proxy',
    name: 'Original or proxy?',
    says: 'Plays and scrubs the originals and their proxies from the same volume.',
    tests: ['playback', 'scrub'],
    forms: ['originals', 'proxies'],
    scales: ['full'],
    volumes: 'one',
    repeats: 5,
  },
  {
    id: 'which-volume',
    name: 'Which volume?',
    says: 'Plays the same clips from every volume that holds them, and measures what each volume sustains.',
    tests: ['playback', 'throughput'],
    forms: ['originals'],
    scales: ['full'],
    volumes: 'all',
    repeats: 5,
  },
  {
    id: 'device-out-device-in',
    name: 'Does a decode device help?',
    says: 'Plays and scrubs the same clips or timelines in software and on every decode device: drops, headroom and processor side by side.',
    tests: ['playback', 'scrub'],
    forms: ['originals'],
    scales: ['full'],
    volumes: 'none',
    devices: 'all',
    repeats: 3,
  },
  {
    id: 'past-and-through',
    name: 'Does the system’s cache help this volume?',
    says: 'Reads the volume, and plays the clips from it, past the system’s cache and through it with its read-ahead, as most players read; both cold.',
    tests: ['playback', 'throughput'],
    forms: ['originals'],
    scales: ['full'],
    volumes: 'one',
    caches: 'both',
    repeats: 3,
  },
  {
    id: 'how-many-cameras',
    name: 'How many cameras at once?',
    says: 'Finds how many streams each volume carries and how fast the clips decode.',
    tests: ['streams-carried', 'decode-rate'],
    forms: ['originals'],
    scales: ['full'],
    volumes: 'all',
    repeats: 3,
  },
  {
    id: 'before-and-after',
    name: 'Before and after a change',
    says: 'A fixed set of runs. Repeat it after the change, then lay the two over each other under Compare.',
    tests: ['playback', 'scrub', 'decode-rate'],
    forms: ['originals'],
    scales: ['full'],
    volumes: 'none',
    repeats: 5,
  },
] as const satisfies readonly PlanQuestion[];

export function questionName(id: string): string {
  return (
    planQuestions.find((question) => question.id === id)?.name ??
    (id === 'series' ? 'Series' : 'Custom matrix')
  );
}
