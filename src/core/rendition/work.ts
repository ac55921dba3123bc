import type { ClipFaults } from '../media/faults';

export type RenditionItemStatus = 'waiting' | 'running' | 'made' | 'present' | 'failed';

export type RenditionStage = 'decode' | 'scale' | 'encode' | 'write';

/** What making a rendition took. Stages work at the same time. */
export interface RenditionWork {
  readonly frames: number;
  readonly wallUs: number;
  readonly stageUs: Readonly<Record<RenditionStage, number>>;
  readonly bytes: number;
  readonly pixelFormat: string;
  readonly width: number;
  readonly height: number;
  readonly decoder: string;
  readonly encoder: string;
  readonly audioTracks: number;
  /** Frames of the source that are not whole; where the decoder made no picture, the one before was repeated. Absent: none. */
  readonly faults?: ClipFaults;
}
