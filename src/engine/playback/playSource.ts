import type { ProcessedPicture } from './processor';

/** Where a player's slots come from: one clip, or a timeline of several. `Read` is what reading a slot gives, `Decoded` what decoding it does. */
export interface PlaySource<Read, Decoded> {
  /** Reads what a slot adds in the order of decoding. */
  read(slot: number, position: number): Promise<Read>;
  /** Gives back what was read, whether it was decoded or not. */
  discard(read: Read): void;
  /** Hands it to the decoders; null: no more will come. False when frames must be taken first. */
  send(read: Read | null): Promise<boolean>;
  /** The next slot whose frames are all decoded, in display order; null when more must be sent. */
  receive(): Promise<{ readonly slot: number; readonly decoded: Decoded } | null>;
  /** The slot's picture; null when the run processes nothing. */
  process(slot: number, decoded: Decoded): Promise<ProcessedPicture | null>;
  /** Gives back decoded frames, whether they were processed or not. */
  drop(decoded: Decoded): void;
  /** Gives back a picture. */
  release(picture: ProcessedPicture): void;
  /** The frame number that the picture proves, or the one that was asked for where it cannot tell; -1: another than any that was asked for. */
  shownFrame(slot: number, picture: ProcessedPicture | null): number;
  /** True when pictures carry their frame number and it was read. */
  readonly frameCode: boolean;
  close(): Promise<void>;
}
