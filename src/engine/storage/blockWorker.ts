import { closeSync, constants, readSync, writeSync } from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';
import { seededRandom } from '@/core/stats/random';
import { HostLateness, hostLateUs } from '@/core/storage/hostLate';
import { monotonicUs } from '../clock';
import { errorCode } from '../errors';
import { openInPlaceSync } from '../inPlace';
import { alignedBuffer, alignment, wholePages } from '../media/coldFile';
import {
  controlViews,
  RecordRing,
  runState,
  type FromWorker,
  type Pattern,
  type WorkerStart,
} from './blockShared';
import { SharedPacer } from './sharedPacer';
import { fillTestBlock } from './testFile';
import { greatest } from '@/core/stats/extremes';

/**
 * The thread of one reader or writer. It asks for one block after the other and
 * waits for each: its times are the volume's and not an event loop's.
 */
const { actor, shared, control, ring: ringBuffer } = workerData as WorkerStart;
const { state, lock, start } = controlViews(control);
const ring = new RecordRing(ringBuffer);
const pacer = shared && new SharedPacer(shared, lock);
const buffer = alignedBuffer(largestRequest(actor.pattern));
const shortestWaitUs = 50;

function tell(message: FromWorker): void {
  parentPort?.postMessage(message);
}

function largestRequest(pattern: Pattern): number {
  const largest = pattern.kind === 'frames' ? greatest(pattern.sizes, 0) : pattern.blockBytes;
  return wholePages(largest) + 2 * alignment;
}

const now = () => monotonicUs() - (start[0] as number);
const stopped = () => Atomics.load(state, 0) === runState.stopped;

/** Sleeps to a time from t0, or until the run is stopped. */
function sleepUntil(us: number): void {
  for (let left = us - now(); left >= shortestWaitUs && !stopped(); left = us - now())
    Atomics.wait(state, 0, runState.running, left / 1000);
}

/** Asks the model when it would have answered: µs from t0. The model outlives a run, so its clock is not the run's. */
function admit(address: number, bytes: number): number {
  if (!pacer) return -Infinity;
  const request = { stream: actor.stream, address: actor.addressBase + address, bytes, write: actor.write };
  return pacer.admit(request) - (start[0] as number);
}

/** Reads or writes bytes of the file, and has the model agree. Addresses may run beyond the file where it is read again as if it were more. */
function transfer(
  file: number,
  offset: number,
  bytes: number,
  address: number,
): { endUs: number; modelUs: number; hostLate: boolean } {
  const modelUs = admit(address, bytes);
  const from = actor.direct ? Math.floor(offset / alignment) * alignment : offset;
  const length = actor.direct ? wholePages(offset + bytes - from) : bytes;
  for (let done = 0; done < length;) {
    const moved = actor.write
      ? writeSync(file, buffer, done, length - done, from + done)
      : readSync(file, buffer, done, length - done, from + done);
    if (moved === 0) break; // the file ends within its last page
    done += moved;
    if (actor.direct && done % alignment !== 0) break;
  }
  const hostLate = pacer !== null && now() > modelUs + hostLateUs;
  sleepUntil(modelUs);
  return { endUs: now(), modelUs, hostLate };
}

function runBlocks(file: number, pattern: Exclude<Pattern, { kind: 'frames' }>): void {
  const { blockBytes, fileBytes } = pattern;
  const random = pattern.kind === 'random' ? seededRandom(pattern.seed) : null;
  const blocks = Math.max(1, Math.floor(fileBytes / blockBytes));
  const untilUs = actor.seconds * 1e6;
  for (let moved = 0, index = 0; moved < actor.bytes && now() < untilUs && !stopped(); index++) {
    const offset =
      (random ? Math.floor(random() * blocks) : actor.write ? index : index % blocks) * blockBytes;
    const bytes = actor.write ? blockBytes : Math.min(blockBytes, fileBytes - offset);
    const begun = now();
    const { endUs, hostLate } = transfer(file, offset, bytes, offset);
    if (stopped()) return; // it did not get its whole time
    ring.push({ startUs: begun, endUs, bytes, dueUs: Number.NaN, hostLate });
    moved += bytes;
  }
}

/** Frame k is due a read-ahead and k slots after t0, and is asked for at most a read-ahead early. Frames whose slot has passed are given up. */
function runFrames(file: number, pattern: Extract<Pattern, { kind: 'frames' }>): void {
  const { offsets, sizes, fileBytes, slotUs, firstSlot, readAhead } = pattern;
  const frames = Math.floor((actor.seconds * 1e6) / slotUs);
  const host = pacer && new HostLateness();
  for (let frame = 0; frame < frames && !stopped(); frame++) {
    const due = (readAhead + frame) * slotUs;
    const earliest = due - readAhead * slotUs;
    sleepUntil(earliest);
    const place = firstSlot + frame;
    const row = place % offsets.length;
    const begun = now();
    if (begun > due) {
      ring.push({
        startUs: begun,
        endUs: -Infinity,
        bytes: sizes[row] as number,
        dueUs: due,
        hostLate: host?.givenUp(earliest, due) ?? false,
      });
      continue;
    }
    const offset = offsets[row] as number;
    const { endUs, modelUs } = transfer(
      file,
      offset,
      sizes[row] as number,
      Math.floor(place / offsets.length) * fileBytes + offset,
    );
    if (!stopped())
      ring.push({
        startUs: begun,
        bytes: sizes[row] as number,
        dueUs: due,
        endUs,
        hostLate: host?.answered(earliest, { begunUs: begun, modelUs, endUs, dueUs: due }) ?? false,
      });
  }
}

function run(): void {
  const { direct, write, pattern, path } = actor;
  if (write) fillTestBlock(buffer);
  const way = write ? constants.O_WRONLY | (direct ? 0 : constants.O_DSYNC) : constants.O_RDONLY;
  const file = openInPlaceSync(path, way | (direct ? constants.O_DIRECT : 0));
  try {
    tell({ type: 'up' });
    Atomics.wait(state, 0, runState.waiting);
    if (pattern.kind === 'frames') runFrames(file, pattern);
    else runBlocks(file, pattern);
  } finally {
    closeSync(file);
  }
}

try {
  run();
} catch (error) {
  tell({
    type: 'failed',
    code: errorCode(error),
    message: error instanceof Error ? error.message : String(error),
  });
}
