import type { FrameGraph } from '@/core/playback/work';
import type { RunDevices } from '../codec/runDevices';
import type { LaneClip } from '../opening/laneShared';
import type { SoundJob } from '../sound/soundShared';
import type { PlaySource } from './playSource';
import type { TraceRecorder } from './traceRecorder';
import type { ColdProof } from '@/core/media/coldProof';
import type { RunFindings } from '@/core/playback/conditions';

/** What is to be played, opened and ready. */
export interface PreparedRun<Decoded = unknown> {
  readonly source: PlaySource<Decoded>;
  readonly graph: FrameGraph;
  readonly recorder: TraceRecorder;
  readonly slotUs: number;
  /** Its sound; null where it has none, or none is played. */
  readonly soundJob: SoundJob | null;
  readonly cold: ColdProof;
  /** When what a person waits for began, on the monotonic clock. Proving files cold comes before. */
  readonly commandUs: number;
  /** The decoders in words, once they are open. */
  decoder(): { decoder: string; decoderThreads: number; threadKind: string };
  /** What decodes it, and what each device drew so far. */
  readonly devices: RunDevices;
  /** Its clips, for a thread that reads them besides. */
  clips(): readonly LaneClip[];
  /** Throws EngineError when a path no longer leads to an opened file. */
  assertStillThere(): Promise<void>;
  /** Measures what a result wants besides, after the run. */
  afterwards(): Promise<RunFindings>;
  close(): Promise<void>;
}
