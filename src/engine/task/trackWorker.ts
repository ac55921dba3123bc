import { createRequire } from 'node:module';
import { parentPort, workerData } from 'node:worker_threads';
import type { CV, Mat } from '@techstark/opencv-js';
import type { FromTracker, TrackStart } from './trackShared';

/**
 * The thread that follows points from picture to picture: corners of the first picture (Shi and Tomasi 1994), followed by pyramids of
 * optical flow (Lucas and Kanade 1981; Bouguet 2001). Each is followed back again as well: one that does not come back to where it was is lost.
 */
const { width, height, points, luma } = workerData as TrackStart;
const pixels = new Uint8Array(luma);

/** Corners are at least so good, against the best, and so far from each other, shares of the picture's width. */
const leastQuality = 0.01;
const leastDistance = 0.01;
/** Side of the square around a point that is compared, and pyramid levels above the picture. */
const windowPixels = 21;
const levels = 3;
/** Farther than this from where it was after going back and forth, a point is lost. */
const mostBackPixels = 1;

const say = (message: FromTracker) => parentPort?.postMessage(message);

class Tracker {
  private readonly now: Mat;
  private readonly before: Mat;
  private places: Mat | null = null;
  private readonly side;
  private readonly criteria;

  constructor(private readonly cv: CV) {
    this.now = new cv.Mat(height, width, cv.CV_8UC1);
    this.before = new cv.Mat(height, width, cv.CV_8UC1);
    this.side = new cv.Size(windowPixels, windowPixels);
    this.criteria = new cv.TermCriteria(
      Number(cv.TermCriteria_EPS) + Number(cv.TermCriteria_COUNT),
      30,
      0.01,
    );
  }

  picture(): FromTracker {
    this.now.data.set(pixels);
    const ways = this.places ? this.follow(this.places) : this.find();
    this.now.copyTo(this.before);
    return { type: 'points', places: Float32Array.from(this.places?.data32F ?? []), ways };
  }

  private find(): Float32Array {
    const { cv } = this;
    const found = new cv.Mat();
    const everywhere = new cv.Mat();
    cv.goodFeaturesToTrack(
      this.now,
      found,
      points,
      leastQuality,
      Math.max(3, leastDistance * width),
      everywhere,
      3,
    );
    everywhere.delete();
    this.places = found;
    return new Float32Array(0);
  }

  private follow(from: Mat): Float32Array {
    const { cv } = this;
    if (from.rows === 0) return new Float32Array(0);
    const to = new cv.Mat();
    const back = new cv.Mat();
    const forth = new cv.Mat();
    const came = new cv.Mat();
    const error = new cv.Mat();
    const flow = (a: Mat, b: Mat, start: Mat, end: Mat, status: Mat) =>
      cv.calcOpticalFlowPyrLK(a, b, start, end, status, error, this.side, levels, this.criteria);
    flow(this.before, this.now, from, to, forth);
    flow(this.now, this.before, to, back, came);
    const kept: number[] = [];
    const ways: number[] = [];
    for (let at = 0; at < from.rows; at++) {
      const place = ({ data32F }: Mat) => ({
        x: data32F[2 * at] as number,
        y: data32F[2 * at + 1] as number,
      });
      const [begun, ended, returned] = [place(from), place(to), place(back)];
      const isFollowed =
        forth.data[at] === 1 &&
        came.data[at] === 1 &&
        Math.hypot(returned.x - begun.x, returned.y - begun.y) <= mostBackPixels &&
        ended.x >= 0 &&
        ended.y >= 0 &&
        ended.x < width &&
        ended.y < height;
      if (!isFollowed) continue;
      kept.push(ended.x, ended.y);
      ways.push(Math.hypot(ended.x - begun.x, ended.y - begun.y));
    }
    for (const mat of [from, to, back, forth, came, error]) mat.delete();
    this.places = cv.matFromArray(kept.length / 2, 1, cv.CV_32FC2, kept);
    return Float32Array.from(ways);
  }
}

const cv = createRequire(import.meta.url)('@techstark/opencv-js') as CV & {
  onRuntimeInitialized?: () => void;
};
const begin = () => {
  const tracker = new Tracker(cv);
  parentPort?.on('message', () => {
    try {
      say(tracker.picture());
    } catch (error) {
      say({ type: 'failed', message: error instanceof Error ? error.message : String(error) });
    }
  });
  say({ type: 'up' });
};
// It is no promise, though it can look like one: it says itself when it is ready.
if (cv.Mat) begin();
else cv.onRuntimeInitialized = begin;
