import type { RunFaults } from '@/core/media/faults';
import type { FeedRows, SlotRows } from '@/core/playback/backlog';
import type { ProcessedPicture } from '../codec/processor';

/** The frame that a picture shows, by its number. */
export interface ShownFrame {
  /** As the picture says itself where it is proved, else the one that was asked for; -1: another than any that was asked for. */
  readonly frame: number;
  /** True where the picture carries its number: then another than the one that was asked for is a wrong frame. */
  readonly isProved: boolean;
}

/** Where a player's slots come from: one clip, or a timeline of several. `Decoded` is what decoding a slot gives. */
export interface PlaySource<Decoded> {
  /** Reads what a slot takes and keeps it until it is decoded or given up. */
  read(rows: SlotRows): Promise<void>;
  /** Hands a piece of what was read to the decoders: `slot` is told with its last. */
  decode(piece: readonly FeedRows[], slot: SlotRows | null): Promise<void>;
  /** Takes out what the decoders still hold: no more will come. */
  end(): Promise<void>;
  /** True when the frames of the next slot, in order, are all there; otherwise more must be handed over. */
  readonly hasFrame: boolean;
  /** The next slot's frames; only where they are there. Refused: the decoder made no picture of one that shows. */
  receive(): Promise<{ readonly slot: number; readonly decoded: Decoded; readonly isRefused: boolean }>;
  /** The slot's picture; null when the run processes nothing. */
  process(slot: number, decoded: Decoded): Promise<ProcessedPicture | null>;
  /** Gives back decoded frames, whether they were processed or not. */
  drop(decoded: Decoded): void;
  /** Gives back a picture. */
  release(picture: ProcessedPicture): void;
  /** The frame that a slot's picture shows. */
  shownFrame(slot: number, picture: ProcessedPicture | null): ShownFrame;
  /** What was met of frames that are not whole; null: nothing. */
  readonly faults: RunFaults | null;
  /** Why nothing at all could be decoded; null where something was, or nothing was tried. */
  readonly failure: Error | null;
  /** True when pictures carry their frame number and it was read. */
  readonly frameCode: boolean;
  close(): Promise<void>;
}
