import type { Timeline } from '@/core/timeline/model';
import type { PlaybackScale } from '../playback/spec';
import type { TimelineSpec } from './spec';

/** What a page asks of its viewer. */
export type ViewerCommand =
  | { readonly type: 'show'; readonly slot: number }
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
  | { readonly type: 'open'; readonly spec: TimelineSpec; readonly scale: PlaybackScale }
  /** The same media, edited otherwise. */
  | { readonly type: 'edit'; readonly timeline: Timeline; readonly looks: Readonly<Record<string, string>> }
  | ViewerCommand;

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
  /** Why there is no picture. */
  readonly problem: string | null;
  /** What the picture lacks. */
  readonly remark: string | null;
}

export type FromViewer = {
  readonly type: 'state';
  readonly state: ViewerState;
  readonly jpeg: Uint8Array | null;
};
