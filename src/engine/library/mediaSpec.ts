import type { ClipSource } from '../media/plainReader';
import type { Preview } from './preview';
import type { ProbedClip } from '../media/streamFacts';
import type { DeviceReport } from '@/core/decode/device';

/** What the process that reads media is asked to do. */
export type MediaJob =
  | { readonly kind: 'probe'; readonly path: string }
  | { readonly kind: 'preview'; readonly source: ClipSource; readonly pixelAspect: number }
  | { readonly kind: 'devices' };

/** What each job gives. */
export interface MediaResults {
  readonly probe: ProbedClip;
  readonly preview: Preview;
  readonly devices: readonly DeviceReport[];
}

export type ToMedia = { readonly turn: number; readonly job: MediaJob };

export type FromMedia =
  /** The process has come up: from now on it works on what it is asked. */
  | { readonly turn: 0; readonly type: 'up' }
  | { readonly turn: number; readonly type: 'progress' }
  | { readonly turn: number; readonly type: 'done'; readonly result: MediaResults[keyof MediaResults] }
  /** `expected`: the file is at fault and the message says so. */
  | { readonly turn: number; readonly type: 'failed'; readonly expected: boolean; readonly message: string };
