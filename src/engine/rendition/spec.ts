import type { RasterFraction } from '@/core/rendition/presets';
import type { FrameCheck } from '@/core/rendition/frameCheck';
import type { RenditionWork } from '@/core/rendition/work';
import type { ClipIdentity } from '@/core/media/identity';
import type { Rational } from '@/core/time/rational';
import type { Failed, Finished } from '../processes';

/** All that a rendition process needs; it never asks the database. */
export interface RenditionSpec {
  readonly sourcePath: string;
  /** Written beside its place; whoever asked moves it when it is whole. */
  readonly outputPath: string;
  readonly presetId: string;
  readonly raster: RasterFraction;
  readonly rate: Rational;
  readonly frames: number;
  readonly identity: Pick<ClipIdentity, 'timing' | 'rotation' | 'scan'>;
  readonly startTimecode: string | null;
  /** Threads for each of decoder and encoder; 0: one per core. */
  readonly threads: number;
  /** Frames to make, for a measurement of the rate alone; null for all, with the check. */
  readonly sampleFrames: number | null;
}

export interface RenditionProgress {
  readonly phase: 'making' | 'checking';
  readonly frames: number;
  readonly total: number;
}

export type FromRendition =
  | { readonly type: 'progress'; readonly progress: RenditionProgress }
  | (Finished & {
      readonly work: RenditionWork | null;
      readonly check: FrameCheck | null;
    })
  | Failed;

export type ToRendition =
  | { readonly type: 'start'; readonly spec: RenditionSpec }
  | { readonly type: 'cancel' };
