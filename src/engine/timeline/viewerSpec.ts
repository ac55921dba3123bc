import type { Timeline } from '@/core/timeline/model';
import type { PlaybackScale } from '../playback/spec';
import type { ColdWay } from '@/core/media/coldProof';
import type { TimelineSpec } from './spec';

/** What a page asks of its viewer. */
export type ViewerCommand =
  /** `jump`: number of the jump, told again with its picture; 0 where nobody waits for it. */
  | { readonly type: 'show'; readonly slot: number; readonly jump: number }
  | {
      readonly type: 'play';
      /** number of the run, told again with its states */ readonly run: number;
      readonly from: number;
      readonly speed: number;
      readonly loop: { readonly from: number; readonly to: number } | null;
    }
  | { readonly type: 'stop' }
  | { readonly type: 'scale'; readonly scale: PlaybackScale };

export type ToViewer =
  | {
      readonly type: 'open';
      readonly spec: TimelineSpec;
      readonly scale: PlaybackScale;
      /** read from the volume at every jump, not from the system's cache */ readonly cold: boolean;
    }
  /** The same media, edited otherwise. */
  | { readonly type: 'edit'; readonly timeline: Timeline; readonly looks: Readonly<Record<string, string>> }
  | ViewerCommand;

/** Where a layer's frame on screen came from. */
export interface ShownFrame {
  /** id of the medium */ readonly media: string;
  readonly frame: number;
  readonly volume: string;
  readonly simulated: boolean;
  /** `kept`: decoded before and held by the viewer. The others: how it was read. */
  readonly from: 'kept' | ColdWay;
  readonly bytes: number;
}

/** The viewer's state, told with every picture and now and then while it plays. */
export interface ViewerState {
  /** Slot on screen. */
  readonly slot: number;
  readonly playing: boolean;
  /** The last run that was asked for; 0 before the first. */
  readonly run: number;
  readonly speed: number;
  /** Of the present run. */
  readonly shown: number;
  readonly dropped: number;
  /** Slots per second. */
  readonly achievedRate: number;
  /** Slots in the buffers. */
  readonly buffers: { readonly read: number; readonly decoded: number; readonly ready: number };
  /** What the last shown slot took, ms; null while playing. */
  readonly tookMs: { readonly read: number; readonly decode: number; readonly process: number } | null;
  /** Reads cold on request. */
  readonly cold: boolean;
  /** The jump that the picture answers; 0 where none. */
  readonly jump: number;
  /** What emptying the system's cache before it took, ms: no part of a jump. */
  readonly emptiedMs: number;
  /** Frames on screen, from the lowest layer up. */
  readonly frames: readonly ShownFrame[];
  /** Why there is no picture. */
  readonly problem: string | null;
  /** What the picture lacks. */
  readonly remark: string | null;
}

/** A viewer's state while nothing is shown. */
export const idleState: Omit<ViewerState, 'slot' | 'run' | 'cold'> = {
  playing: false,
  speed: 0,
  shown: 0,
  dropped: 0,
  achievedRate: 0,
  buffers: { read: 0, decoded: 0, ready: 0 },
  tookMs: null,
  jump: 0,
  emptiedMs: 0,
  frames: [],
  problem: null,
  remark: null,
};

export type FromViewer = {
  readonly type: 'state';
  readonly state: ViewerState;
  readonly jpeg: Uint8Array | null;
};
