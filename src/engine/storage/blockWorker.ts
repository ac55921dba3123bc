import { closeSync, constants, readSync, writeSync } from 'node:fs';
import { parentPort, workerData } from 'node:worker_threads';
import { seededRandom } from '@/core/stats/random';
import { HostLateness, hostLateUs, owedUs } from '@/core/storage/hostLate';
import { monotonicUs } from '../clock';
import { errorCode } from '../errors';
import { openInPlaceSync } from '../inPlace';
import { alignedBuffer, alignment, wholePages } from '../media/coldFile';
import {
  controlViews,
  RecordRing,
  runState,
  type FromWorker,
  type PacketFiles,
  type Pattern,
  type WorkerStart,
} from './blockShared';
import { openingRequest } from './openingRequest';
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

/** A piece of the file, and where it lies in the model's address space: beyond the file where it is read again as if it were more. */
interface Piece {
  readonly offset: number;
  readonly bytes: number;
  readonly address: number;
}

/** Takes the next piece and asks the model when it would have answered: µs from t0. The model outlives a run, so its clock is not the run's. Null: none is left. */
function admitNext(choose: () => Piece | null, owed: number): (Piece & { readonly modelUs: number }) | null {
  if (!pacer) {
    const piece = choose();
    return piece && { ...piece, modelUs: -Infinity };
  }
  let piece: Piece | null = null;
  const answeredUs = pacer.admitNext(() => {
    piece = choose();
    return (
      piece && {
        stream: actor.stream,
        address: actor.addressBase + piece.address,
        bytes: piece.bytes,
        write: actor.write,
      }
    );
  }, owed);
  return piece && { ...(piece as Piece), modelUs: answeredUs - (start[0] as number) };
}

/** Reads or writes a piece, and has the model agree. */
function transfer(
  file: number,
  choose: () => Piece | null,
  owed = 0,
): { endUs: number; bytes: number; modelUs: number; hostLate: boolean } | null {
  const piece = admitNext(choose, owed);
  if (!piece) return null;
  const { offset, bytes, modelUs } = piece;
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
  return { endUs: now(), bytes, modelUs, hostLate };
}

/** Takes blocks by turns with the other actors of its stream, until enough are taken or the time is over. */
function runBlocks(file: number, pattern: Exclude<Pattern, { kind: 'frames' }>): void {
  const { blockBytes, fileBytes } = pattern;
  const taken = new Int32Array(pattern.taken);
  const random = pattern.kind === 'random' ? seededRandom(pattern.seed) : null;
  const first = pattern.kind === 'sequential' ? pattern.firstBlock : 0;
  const blocks = Math.max(1, Math.floor(fileBytes / blockBytes));
  const wanted = Math.ceil(actor.bytes / blockBytes);
  const untilUs = actor.seconds * 1e6;
  const next = (): Piece | null => {
    const index = Atomics.add(taken, 0, 1);
    if (index >= wanted) return null;
    const place = random ? Math.floor(random() * blocks) : actor.write ? index : (first + index) % blocks;
    const offset = place * blockBytes;
    const bytes = actor.write ? blockBytes : Math.min(blockBytes, fileBytes - offset);
    return { offset, bytes, address: offset };
  };
  let owed = 0;
  while (now() < untilUs && !stopped()) {
    const begun = now();
    const done = transfer(file, next, owed);
    if (!done || stopped()) return; // it did not get its whole time
    ring.push({
      startUs: begun,
      endUs: done.endUs,
      bytes: done.bytes,
      dueUs: Number.NaN,
      hostLate: done.hostLate,
    });
    owed = owedUs(done.endUs, done.modelUs);
  }
}

/** Files of a take that are open. */
const kept = new Map<string, number>();

/** Reads a packet of one of several files: of its own, which is opened for it and closed, or of one that stays open. */
function transferOf(
  files: PacketFiles,
  row: number,
  bytes: number,
  address: number,
): ReturnType<typeof transfer> {
  const path = files.paths[files.fileOf[row] as number] as string;
  const piece = { offset: files.from[row] as number, bytes, address };
  if (!files.opensEachRead) {
    const open = kept.get(path) ?? openToRead(path);
    kept.set(path, open);
    return transfer(open, () => piece);
  }
  const own = openToRead(path);
  try {
    const opening = admitNext(() => ({ offset: 0, ...openingRequest(address) }), 0);
    if (opening) sleepUntil(opening.modelUs);
    return transfer(own, () => piece);
  } finally {
    closeSync(own);
  }
}

const openToRead = (path: string) =>
  openInPlaceSync(path, constants.O_RDONLY | (actor.direct ? constants.O_DIRECT : 0));

/** Frame k is due a read-ahead and k slots after t0, and is asked for at most a read-ahead early. Frames whose slot has passed are given up. */
function runFrames(file: number, pattern: Extract<Pattern, { kind: 'frames' }>): void {
  const { offsets, sizes, files, fileBytes, slotUs, firstSlot, readAhead } = pattern;
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
    const address = Math.floor(place / offsets.length) * fileBytes + offset;
    const bytes = sizes[row] as number;
    const done = files
      ? transferOf(files, row, bytes, address)
      : transfer(file, () => ({ offset, bytes, address }));
    if (!done) return;
    const { endUs, modelUs } = done;
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
    for (const open of kept.values()) closeSync(open);
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
