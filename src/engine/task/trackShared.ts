/** What the thread that follows points is given: a picture's luma, as wide as its lines, and how many points. */
export interface TrackStart {
  readonly width: number;
  readonly height: number;
  readonly points: number;
  /** Luma of the picture that is to be looked at, 8 bit, width x height. */
  readonly luma: SharedArrayBuffer;
}

/** It is told when a picture is there, by any message. What it says: that it is up, where the points are in the picture that it was given, or why it cannot. */
export type FromTracker =
  | { readonly type: 'up' }
  | {
      readonly type: 'points';
      /** x and y of every point that is still followed, pixels. */
      readonly places: Float32Array;
      /** How far each of them went from the picture before, pixels; empty of the first. */
      readonly ways: Float32Array;
    }
  | { readonly type: 'failed'; readonly message: string };
