import { median } from '../stats/quantiles';

/** How it was found that frame i of a rendition is frame i of its source. */
export interface FrameCheck {
  /** `frame code`: numbers read off the pictures. `picture distance`: each frame must be nearest to its own source frame. */
  readonly method: 'frame code' | 'picture distance';
  readonly frames: number;
  /** Frames of which it is proved. */
  readonly same: number;
  /** Frames that look like their neighbours too, so that the distance tells nothing. */
  readonly undecided: number;
  /** Frames that are not what they should be. */
  readonly wrong: number;
  /** The first frames that are wrong. */
  readonly firstWrong: readonly number[];
  /** Frames of the source that the rendition lacks, or has too many (negative). */
  readonly missing: number;
}

/** Cells of a picture's signature: mean luma over a coarse raster. */
export const signatureRaster = { width: 16, height: 9 } as const;

/** What is noted of every frame on its way: its number where the picture carries one, and a coarse picture. */
export interface FrameNotes {
  /** -1 where the picture carries none. */
  readonly codes: readonly number[];
  readonly signatures: readonly Uint8Array[];
}

const mostListed = 5;
/** Share of pictures with a number from which on a source counts as numbered. */
const mostlyCoded = 0.5;
/** Mean differences in luma steps below which two coarse pictures cannot be told apart. */
const tellable = 0.4;

/** Holds a rendition's frames against those of its source. */
export function checkFrames(source: FrameNotes, made: FrameNotes): FrameCheck {
  const frames = Math.min(source.signatures.length, made.signatures.length);
  const withCode = source.codes.filter((code) => code >= 0).length;
  const coded = withCode > 0 && withCode >= source.codes.length * mostlyCoded;
  const margin =
    coded && withCode === source.codes.length ? 0 : Math.max(tellable, codingNoise(source, made, frames));
  const judge = (index: number): Judgement => {
    // A damaged picture may have lost its number.
    if (!coded || (source.codes[index] as number) < 0) return nearest(source, made, index, margin);
    return made.codes[index] === source.codes[index] ? 'same' : 'wrong';
  };
  const firstWrong: number[] = [];
  const counts = { same: 0, undecided: 0, wrong: 0 };
  for (let index = 0; index < frames; index++) {
    const found = judge(index);
    counts[found]++;
    if (found === 'wrong' && firstWrong.length < mostListed) firstWrong.push(index);
  }
  return {
    method: coded ? 'frame code' : 'picture distance',
    frames,
    ...counts,
    firstWrong,
    missing: source.signatures.length - made.signatures.length,
  };
}

type Judgement = 'same' | 'undecided' | 'wrong';

/** Distances of a rendition's frame to its own source frame and to the nearer one of that frame's neighbours. */
function distances(source: FrameNotes, made: FrameNotes, index: number): { own: number; beside: number } {
  const picture = made.signatures[index];
  const distanceTo = (at: number) => {
    const other = source.signatures[at];
    return picture && other ? pictureDistance(picture, other) : Infinity;
  };
  return { own: distanceTo(index), beside: Math.min(distanceTo(index - 1), distanceTo(index + 1)) };
}

/** A frame is right when its own source frame is nearer than that frame's neighbours, by more than noise. */
function nearest(source: FrameNotes, made: FrameNotes, index: number, margin: number): Judgement {
  const { own, beside } = distances(source, made, index);
  if (beside === Infinity) return 'undecided';
  if (own < beside - margin) return 'same';
  return own > beside + margin ? 'wrong' : 'undecided';
}

/**
 * What scaling and coding alone change in a coarse picture: the median distance to
 * the source frame that is nearest, whichever it is, so that a rendition that is
 * shifted as a whole does not pass its shift off as noise.
 */
function codingNoise(source: FrameNotes, made: FrameNotes, frames: number): number {
  const nearestOf = Array.from({ length: frames }, (_, index) => {
    const { own, beside } = distances(source, made, index);
    return Math.min(own, beside);
  });
  return frames === 0 ? 0 : median(nearestOf);
}

/** Mean absolute difference of two coarse pictures, in luma steps of 255. */
function pictureDistance(a: Uint8Array, b: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += Math.abs((a[i] ?? 0) - (b[i] ?? 0));
  return a.length === 0 ? 0 : sum / a.length;
}

/** Whether a check speaks against the rendition: a frame is wrong or missing. Pictures that all look alike prove nothing either way. */
export function isRefuted({ wrong, missing }: FrameCheck): boolean {
  return wrong > 0 || missing !== 0;
}

/** Whether a check proves the rendition: nothing speaks against it, and some frames tell. */
export function isProved(check: FrameCheck): boolean {
  return !isRefuted(check) && check.same > 0;
}
