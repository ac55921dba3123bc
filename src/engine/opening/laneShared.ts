import type { PacketTable } from '@/core/media/packetTable';
import type { OpeningPart, OpeningStep } from '@/core/tasks/opening';
import type { Rational } from '@/core/time/rational';
import type { CodecSetup } from '../media/streamFacts';
import type { ThreadPacing } from '../storage/sharedPacer';

/** What a thread that opens clips is started with. */
export interface LaneStart {
  /** Threads of a decoder; 0: one per core. */
  readonly threads: number;
  /** Past the system's cache, where the file system allows it. */
  readonly direct: boolean;
  /** One word that becomes 1 when all are to end. */
  readonly stop: SharedArrayBuffer;
  /** t0, µs on the monotonic clock; written before the first job. */
  readonly begun: SharedArrayBuffer;
}

/** A clip that is to be opened. */
export interface LaneClip {
  readonly index: number;
  readonly path: string;
  /** Of a simulated volume; null of a real one. */
  readonly pacing: ThreadPacing | null;
  readonly setup: CodecSetup;
  readonly rate: Rational;
  readonly packets: PacketTable;
}

/** Its header alone, which stays open; its header and its first picture, and no more; or all of it that is still to be made. `end`: nothing more comes. */
export type ToLane =
  | { readonly type: 'header'; readonly clip: LaneClip }
  | { readonly type: 'picture'; readonly clip: LaneClip }
  | { readonly type: 'whole'; readonly clip: LaneClip }
  | { readonly type: 'end' };

export type FromLane =
  | { readonly type: 'up' }
  | { readonly type: 'moved' }
  | { readonly type: 'step'; readonly index: number; readonly part: OpeningPart; readonly step: OpeningStep }
  /** A job came to its end; `problem`: why not all of it could be made. */
  | { readonly type: 'done'; readonly index: number; readonly problem: string | null }
  /** The file could not be read: the run ends. */
  | {
      readonly type: 'failed';
      readonly path: string;
      readonly code: string | null;
      readonly message: string;
    };
