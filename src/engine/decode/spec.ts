import type { DecodeCores, DecodePass, FrameCosts, SeekCost, StreamsStep } from '@/core/decode/result';
import type { ClipFaults } from '@/core/media/faults';
import type { Format } from '@/core/media/format';
import type { CodecSetup } from '../media/streamFacts';
import type { Failed, Finished } from '../processes';
import type { DecodeSettings, DecodeProgress } from '@/core/kinds/shared/decode';

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
