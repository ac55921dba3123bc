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
/** Mean differences in luma steps below which two coarse pictures cannot be told apart. */
const tellable = 0.4;

/** Holds a rendition's frames against those of its source. */
export function checkFrames(source: FrameNotes, made: FrameNotes): FrameCheck {
  const frames = Math.min(source.signatures.length, made.signatures.length);
  const coded = source.codes.length > 0 && source.codes.every((code) => code >= 0);
  const judge = coded ? (index: number) => (made.codes[index] === source.codes[index] ? 'same' : 'wrong') as Judgement : (index: number) => nearest(source, made, index);
  const firstWrong: number[] = [];
  const counts = { same: 0, undecided: 0, wrong: 0 };
  for (let index = 0; index < frames; index++) {
    const found = judge(index);
    counts[found]++;
    if (found === 'wrong' && firstWrong.length < mostListed) firstWrong.push(index);
  }
  return { method: coded ? 'frame code' : 'picture distance', frames, ...counts, firstWrong, missing: source.signatures.length - made.signatures.length };
}

type Judgement = 'same' | 'undecided' | 'wrong';

/** A frame is right when its own source frame is nearer than that frame's neighbours, by more than noise. */
function nearest(source: FrameNotes, made: FrameNotes, index: number): Judgement {
  const picture = made.signatures[index];
  const distanceTo = (at: number) => {
    const other = source.signatures[at];
    return picture && other ? pictureDistance(picture, other) : Infinity;
  };
  const own = distanceTo(index);
  const beside = Math.min(distanceTo(index - 1), distanceTo(index + 1));
  if (beside === Infinity) return 'undecided';
  if (own < beside - tellable) return 'same';
  return own > beside + tellable ? 'wrong' : 'undecided';
}

/** Mean absolute difference of two coarse pictures, in luma steps of 255. */
export function pictureDistance(a: Uint8Array, b: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += Math.abs((a[i] ?? 0) - (b[i] ?? 0));
  return a.length === 0 ? 0 : sum / a.length;
}

/** Whether a check proves the rendition: nothing wrong or missing, and something proved. */
export function checkPassed({ wrong, missing, same }: FrameCheck): boolean {
  return wrong === 0 && missing === 0 && same > 0;
}

export function checkSentence(check: FrameCheck): string {
  const by = check.method === 'frame code' ? 'by the frame code in the picture' : 'by picture distance';
  if (check.missing > 0) return `${check.missing} frames at the end are missing.`;
  if (check.missing < 0) return `It has ${-check.missing} frames too many.`;
  if (check.wrong > 0) return `${check.wrong} of ${check.frames} frames are not their source frame, the first at ${check.firstWrong.join(', ')} (${by}).`;
  if (check.same === 0) return 'All frames look alike: which is which cannot be told.';
  return `Frame i is frame i for ${check.same} of ${check.frames} frames (${by}${check.undecided > 0 ? `; ${check.undecided} look like their neighbours` : ''}).`;
}
