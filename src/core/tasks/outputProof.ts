import { quantity } from '../format';
import { checkFrames, type FrameCheck, type FrameNotes } from '../rendition/frameCheck';

/** What an output was found to hold when it was decoded whole. */
export interface OutputFound {
  readonly frames: number;
  /** By the container's own times, s; null where it has none (a sequence of pictures). */
  readonly seconds: number | null;
  /** Length of the sound when decoded, s; null without. */
  readonly soundSeconds: number | null;
  /** Frames that the decoder refused or had to conceal. */
  readonly damaged: number;
}

export interface OutputProof extends OutputFound {
  /** Frame i of the output against the picture that was handed to the encoder for it. */
  readonly check: FrameCheck;
  /** Why it is not what it should be; empty where it is. */
  readonly problems: readonly string[];
}

/** What was to be written. */
export interface OutputAsked {
  readonly frames: number;
  readonly seconds: number;
  readonly sound: boolean;
}

/** Sound may end up to a block of its codec, and a frame, earlier or later. */
const soundSlackS = 0.1;

/** Holds an output against what was asked for. */
export function proveOutput(
  asked: OutputAsked,
  found: OutputFound,
  given: FrameNotes,
  made: FrameNotes,
): OutputProof {
  const check = checkFrames(given, made);
  const frameSeconds = asked.seconds / Math.max(1, asked.frames);
  const off = (seconds: number, slack: number) => Math.abs(seconds - asked.seconds) > slack;
  const problems = [
    found.frames === asked.frames ? '' : `it holds ${found.frames} frames in place of ${asked.frames}`,
    found.seconds !== null && off(found.seconds, frameSeconds * 0.6)
      ? `it lasts ${quantity(found.seconds, 's', 3)} in place of ${quantity(asked.seconds, 's', 3)}`
      : '',
    check.wrong > 0
      ? `${check.wrong} of its frames are not what was handed to the encoder, the first at ${check.firstWrong.join(', ')}`
      : '',
    found.damaged > 0 ? `${found.damaged} of its frames cannot be decoded whole` : '',
    asked.sound && found.soundSeconds === null ? 'it has no sound' : '',
    found.soundSeconds !== null && off(found.soundSeconds, soundSlackS + frameSeconds)
      ? `its sound lasts ${quantity(found.soundSeconds, 's', 3)} in place of ${quantity(asked.seconds, 's', 3)}`
      : '',
  ].filter(Boolean);
  return { ...found, check, problems };
}
