import type { MatrixChoice, PlanOrder } from './matrix';

export type PlanStatus = 'queued' | 'running' | 'paused' | 'done' | 'cancelled';

/** How a plan goes about its cells. */
export interface PlanSettings extends MatrixChoice {
  readonly repeats: number;
  readonly order: PlanOrder;
  readonly seed: number;
  readonly warm: boolean;
  /** Runs that each cell may be given by itself for those in doubt. Absent in plans from before it was kept: none. */
  readonly mostMadeUp?: number;
  readonly policy: 'hold-time' | 'every-frame';
}

/** What a cell is, in words, by dimension. */
export interface CellLabels {
  readonly what: string;
  readonly volume: string | null;
  readonly simulated: boolean;
  readonly form: string | null;
  readonly scale: string | null;
  readonly format: string | null;
  /** How its files are read; absent: past the system's cache. */
  readonly cache?: 'through';
  /** What decodes it; absent in plans from before it could be chosen, and where it does not matter. */
  readonly device?: { readonly name: string; readonly simulated: boolean };
}
