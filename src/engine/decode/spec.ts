import type { DecodeCores, DecodePass, FrameCosts, SeekCost, StreamsStep } from '@/core/decode/result';
import type { ClipFaults } from '@/core/media/faults';
import type { Format } from '@/core/media/format';
import type { Rational } from '@/core/time/rational';
import type { CodecSetup } from '../media/probe';
import type { PlaybackScale } from '../playback/spec';
import type { Failed, Finished } from '../processes';

/** How fast a format decodes in software, alone. */
export interface RateSettings {
  readonly kind: 'decode-rate';
  readonly passSeconds: number;
  readonly passes: number;
}

/** Whether a device decodes it faster than software: pairs A B A B. */
export interface SupportSettings {
  readonly kind: 'decode-support';
  readonly deviceId: string;
  readonly passSeconds: number;
  /** Pairs at most; three are always run. */
  readonly mostPairs: number;
}

/** How many streams decode side by side at a rate. */
export interface DecodeStreamsSettings {
  readonly kind: 'decode-streams';
  readonly rate: Rational;
  readonly scale: PlaybackScale;
  readonly seconds: number;
  readonly mostStreams: number;
}

export type DecodeSettings = RateSettings | SupportSettings | DecodeStreamsSettings;

/** All that a decode process needs; it never asks the database. */
export interface DecodeSpec {
  readonly path: string;
  readonly setup: CodecSetup;
  readonly format: Format;
  readonly packets: Uint8Array;
  readonly settings: DecodeSettings;
  /** Which part of the trial this process does. */
  readonly cores: DecodeCores;
}

export interface DecodeProgress {
  /** What is under way, in words. */
  readonly note: string;
  /** Work done of all in this process, 0 to 1. */
  readonly share: number;
  /** Grows with every frame: what the watchdog looks at. */
  readonly frames: number;
  readonly framesPerSecond: number;
  readonly msLeft: number | null;
}

export type FromDecode =
  | { readonly type: 'progress'; readonly progress: DecodeProgress }
  | { readonly type: 'pass'; readonly pass: DecodePass }
  | { readonly type: 'costs'; readonly costs: FrameCosts }
  | { readonly type: 'seeks'; readonly seeks: readonly SeekCost[] }
  | { readonly type: 'memory'; readonly bytes: number }
  | { readonly type: 'streams'; readonly step: StreamsStep }
  | { readonly type: 'faults'; readonly faults: ClipFaults }
  | Finished
  | Failed;

export type ToDecode = { readonly type: 'start'; readonly spec: DecodeSpec } | { readonly type: 'cancel' };
