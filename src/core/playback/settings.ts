import type { InjectedFault } from './injectedFault';
import type { BufferDepths, PlaybackScale, Policy } from './slots';

export interface PlaybackSettings {
  readonly scale: PlaybackScale;
  readonly policy: Policy;
  /** Decoder threads; 0 lets the decoder take one per core. */
  readonly threads: number;
  /** Read through the system's cache on purpose. */
  readonly warm: boolean;
  /** Scale and convert decoded frames. Off measures reading and decoding alone. */
  readonly processing: boolean;
  readonly buffers: BufferDepths;
  /** Play only the first so many slots; null plays all. */
  readonly slotLimit: number | null;
  readonly faults: readonly InjectedFault[];
}
