import { randomAt } from '../stats/random';
import { arrayShape, turnBytes, type ArrayShape } from './array';
import { depthLimitedRate, lineRate } from './link';
import { burstBytes, leftByOthers, writeRate, type StorageModel } from './model';

/** One request of a client, in the address space that all files of a run share. */
export interface PacedRequest {
  /** Which reader or writer asks: 0 to before `streams`. */
  readonly stream: number;
  readonly address: number;
  readonly bytes: number;
  readonly write: boolean;
}

/** A stand-in's answer to a request it cannot serve, with the code a real volume would give. */
export class Refusal extends Error {
  constructor(readonly code: 'ENOSPC' | 'EROFS' | 'EIO') {
    super(code);
    this.name = 'Refusal';
  }
}

/** Bytes that the server's cache keeps or does not keep together. */
const granule = 2 ** 20;
/** Bytes that lie on one drive before the next one's: what a jump reads of each. */
const chunkBytes = 2 ** 18;
/** A read-ahead goes on for so long at most while its client is busy; longer pauses are lost. */
const longestReadAheadUs = 50_000;
const othersChangeUs = 200_000;
/** A pause after which the drives have had time to empty their burst caches. */
const idleUs = 1_000_000;

const cell = {
  start: 0,
  readFree: 1,
  writeFree: 2,
  cacheFree: 3,
  burstUsed: 4,
  lastWrite: 5,
  written: 6,
  cached: 7,
  requests: 8,
  drives: 9,
} as const;
/** Of each drive: when it is free, and where its last request ended, with one added. */
const cellsOfDrive = 2;

/** Memory of a pacer: may be shared between threads that take turns. */
export interface PacerState {
  readonly cells: Float64Array;
  readonly cacheMap: Uint8Array;
}

/** Bytes of memory that `pacerState` needs for so many drives and streams and so large an address space. */
export function pacerStateBytes(drives: number, streams: number, addressBytes: number): number {
  return 8 * cellCount(drives, streams) + Math.ceil(addressBytes / granule);
}

function cellCount(drives: number, streams: number): number {
  return cell.drives + cellsOfDrive * drives + streams;
}

/** Lays a pacer's state into zeroed memory, or over a state that is already there. */
export function pacerState(buffer: ArrayBufferLike, drives: number, streams: number): PacerState {
  const cells = new Float64Array(buffer, 0, cellCount(drives, streams));
  return { cells, cacheMap: new Uint8Array(buffer, cells.byteLength) };
}

/**
 * Decides when a simulated volume would have answered. Each drive is a first-in-first-out server, the link another
 * one behind them; bytes pass through the link while the drives still read on. A request that follows the one
 * before in its stream is read ahead on all drives of a copy, which turn to another stream after `turnBytes` each;
 * a jump pays a round trip and a drive access, on the drives that hold its bytes.
 */
export class Pacer {
  private readonly shape: ArrayShape;
  private readonly streams: number;

  constructor(
    private readonly model: StorageModel,
    private readonly state: PacerState,
  ) {
    this.shape = arrayShape(model);
    this.streams = cell.drives + cellsOfDrive * model.drives;
  }

  /**
   * @param nowUs any monotonic clock
   * @returns when the answer is complete on that clock; may be past
   * @throws Refusal where the model says so
   */
  admit(request: PacedRequest, nowUs: number): number {
    const { cells } = this.state;
    const { stream, address, bytes, write } = request;
    // Cells are zero at first: ends of streams are kept with one added, so that zero means none.
    const sequential = cells[this.streams + stream] === address + 1;
    if (this.at(cell.requests) === 0) cells[cell.start] = nowUs;
    const elapsedUs = nowUs - this.at(cell.start);
    this.refuse(request, elapsedUs);
    const arrival = sequential ? nowUs - this.readAheadUs() : nowUs + this.model.link.roundTripUs;
    const cached = !write && this.isCached(address, bytes);
    const fromDrives = cached
      ? this.serve(cell.cacheFree, arrival, (bytes * 1e6) / this.model.cache.bytesPerSecond)
      : this.serveDrives(request, arrival, sequential, nowUs, elapsedUs);
    const free = write ? cell.writeFree : cell.readFree;
    const began = Math.max(arrival, this.at(free));
    const overLink = began + (bytes * 1e6) / this.linkRateAt(bytes, elapsedUs);
    const finished = this.past(began, Math.max(fromDrives, overLink));
    // The link waits for no drive: meanwhile it carries what others have ready.
    cells[free] = finished > Math.max(fromDrives, overLink) ? finished : overLink;
    cells[this.streams + stream] = address + bytes + 1;
    cells[cell.requests] = this.at(cell.requests) + 1;
    if (write) cells[cell.written] = this.at(cell.written) + bytes;
    this.keep(address, bytes);
    return finished + this.jitter();
  }

  /** Notes bytes that were written without being paced: the server's cache may hold them. */
  noteWritten(address: number, bytes: number): void {
    this.keep(address, bytes);
  }

  /** How long the requests under way last when the client asks for nothing more. */
  private readAheadUs(): number {
    const { link } = this.model;
    return Math.min(longestReadAheadUs, (link.depth * link.requestBytes * 1e6) / lineRate(link));
  }

  private at(index: number): number {
    return this.state.cells[index] as number;
  }

  private refuse({ bytes, write }: PacedRequest, elapsedUs: number): void {
    const { fault } = this.model;
    if (fault?.kind === 'read-only' && write) throw new Refusal('EROFS');
    if (fault?.kind === 'full' && write && this.at(cell.written) + bytes > fault.afterBytes)
      throw new Refusal('ENOSPC');
    if (fault?.kind === 'read-error' && !write && elapsedUs >= fault.atSeconds * 1e6)
      throw new Refusal('EIO');
  }

  private serve(free: number, arrival: number, serviceUs: number): number {
    const finished = Math.max(arrival, this.at(free)) + serviceUs;
    this.state.cells[free] = finished;
    return finished;
  }

  private serveDrives(
    request: PacedRequest,
    arrival: number,
    sequential: boolean,
    nowUs: number,
    elapsedUs: number,
  ): number {
    const { address, bytes, write } = request;
    const {
      model,
      model: {
        drive: { accessUs, readBytesPerSecond, writeBytesPerSecond },
        fault,
      },
      shape,
    } = this;
    const share = this.shareOf(request, sequential);
    const turnOfAll = turnBytes * shape.width;
    const isOneTurn =
      sequential && Math.floor(address / turnOfAll) === Math.floor((address + bytes) / turnOfAll);
    const written = writeBytesPerSecond * shape.width;
    const rateOfDrive = write
      ? writeRate(model, written, this.useBurst(bytes, nowUs, written)) / shape.width
      : readBytesPerSecond;
    let finished = arrival;
    for (let at = 0; at < share.drives; at++) {
      const drive =
        share.copy * shape.drivesOfCopy + ((share.first + at) % (write ? model.drives : shape.drivesOfCopy));
      const slowed =
        fault?.kind === 'slow-drive' && drive === 0 && elapsedUs >= fault.atSeconds * 1e6 ? fault.share : 1;
      const access = isOneTurn || this.at(this.headOf(drive)) === address + 1 ? 0 : accessUs;
      this.state.cells[this.headOf(drive)] = address + bytes + 1;
      finished = Math.max(
        finished,
        this.serve(
          this.freeOf(drive),
          arrival,
          share.times * (access + (share.bytes * 1e6) / (rateOfDrive * slowed)),
        ),
      );
    }
    return finished;
  }

  private freeOf(drive: number): number {
    return cell.drives + cellsOfDrive * drive;
  }

  private headOf(drive: number): number {
    return cell.drives + cellsOfDrive * drive + 1;
  }

  /** The drives that have to do with a request, how often each, and the bytes that each then reads or writes. */
  private shareOf(
    { stream, address, bytes, write }: PacedRequest,
    sequential: boolean,
  ): { copy: number; first: number; drives: number; times: number; bytes: number } {
    const { copies, drivesOfCopy, width, smallWrite } = this.shape;
    const chunk = Math.floor(address / chunkBytes);
    if (write) {
      if (sequential || bytes >= chunkBytes * width)
        return { copy: 0, first: 0, drives: this.model.drives, times: 1, bytes: bytes / width };
      return {
        copy: 0,
        first: chunk % this.model.drives,
        drives: smallWrite.drives,
        times: smallWrite.accesses,
        bytes,
      };
    }
    // The first client takes the last copy: a slow drive is the first of the first one.
    const copy = copies - 1 - (stream % copies);
    if (sequential) return { copy, first: 0, drives: drivesOfCopy, times: 1, bytes: bytes / width };
    const drives = Math.min(drivesOfCopy, Math.max(1, Math.ceil(bytes / chunkBytes)));
    return { copy, first: chunk % drivesOfCopy, drives, times: 1, bytes: bytes / Math.min(drives, width) };
  }

  /** Whether the drives' burst caches still take a write; they empty at the sustained rate while nothing is written. */
  private useBurst(bytes: number, nowUs: number, sustained: number): boolean {
    const { cells } = this.state;
    const pause = nowUs - this.at(cell.lastWrite);
    if (pause > idleUs)
      cells[cell.burstUsed] = Math.max(0, this.at(cell.burstUsed) - (pause / 1e6) * sustained);
    cells[cell.lastWrite] = nowUs;
    const room = this.at(cell.burstUsed) + bytes <= burstBytes(this.model);
    if (room) cells[cell.burstUsed] = this.at(cell.burstUsed) + bytes;
    return room;
  }

  /** Bytes per second over the link at a moment: line and depth, less what other clients take in this fifth of a second. */
  private linkRateAt(blockBytes: number, elapsedUs: number): number {
    const { link, fault, othersBytesPerSecond, seed } = this.model;
    const lowered = fault?.kind === 'lower-link' && elapsedUs >= fault.atSeconds * 1e6;
    const line = lineRate(lowered ? { ...link, lineBitsPerSecond: fault.lineBitsPerSecond } : link);
    const share =
      othersBytesPerSecond === 0 ? 0 : 0.5 + randomAt(seed, Math.floor(elapsedUs / othersChangeUs));
    return Math.min(leftByOthers(line, othersBytesPerSecond * share), depthLimitedRate(link, blockBytes));
  }

  /** Moves the end of a transfer past a drop-out that it meets. */
  private past(began: number, finished: number): number {
    const { fault } = this.model;
    if (fault?.kind !== 'drop-out') return finished;
    const from = this.at(cell.start) + fault.atSeconds * 1e6;
    const to = from + fault.seconds * 1e6;
    return began < to && finished > from ? finished + to - Math.max(began, from) : finished;
  }

  private jitter(): number {
    const { jitterUs, seed } = this.model;
    return jitterUs === 0 ? 0 : -Math.log(1 - randomAt(~seed, this.at(cell.requests))) * jitterUs;
  }

  private isCached(address: number, bytes: number): boolean {
    if (this.model.cache.bytes === 0) return false;
    for (let index = Math.floor(address / granule); index * granule < address + bytes; index++)
      if (this.state.cacheMap[index] !== 1) return false;
    return true;
  }

  /** Keeps the granules that end within a request, until the cache is full: the bytes before have been read, or are taken to be. */
  private keep(address: number, bytes: number): void {
    const { cacheMap, cells } = this.state;
    const most = Math.floor(this.model.cache.bytes / granule);
    for (
      let index = Math.floor(address / granule);
      (index + 1) * granule <= address + bytes && this.at(cell.cached) < most;
      index++
    ) {
      if (cacheMap[index] !== 0) continue; // kept already, or beyond the address space
      cacheMap[index] = 1;
      cells[cell.cached] = this.at(cell.cached) + 1;
    }
  }
}
