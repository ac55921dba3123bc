import type { Format } from '@/core/media/format';
import type { PacketTable } from '@/core/media/packetTable';
import type { BytesReader } from '../media/plainReader';
import type { CodecSetup } from '../media/streamFacts';
import type { FaultLog } from './faultLog';

/** A clip that a run uses, ready to be read. */
export interface OpenMedia {
  readonly setup: CodecSetup;
  readonly format: Format;
  readonly rate: { readonly num: number; readonly den: number };
  readonly packets: PacketTable;
  readonly intra: boolean;
  /** What decoders tell of its frames that are not whole. */
  readonly faults: FaultLog;
  /** As messages name it at the beginning of a sentence; absent: "This clip". */
  readonly name?: string | undefined;
  /** A reader for one feed: each reads on its own. */
  readonly openReader: () => Promise<BytesReader>;
}

/** The medium of a clip that is played by itself. */
export const clipMedia = '';
