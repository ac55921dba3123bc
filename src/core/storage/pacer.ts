import { randomAt } from '../stats/random';
import { arrayFigures } from './array';
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

/** Bytes that the server's cache keeps or does not keep together, and that drives read ahead at once for a reader that goes on. */
const granule = 2 ** 20;
/** A read-ahead goes on for so long at most while its client is busy; longer pauses are lost. */
const longestReadAheadUs = 50_000;
const othersChangeUs = 200_000;
/** A pause after which the drives have had time to empty their burst caches. */
const idleUs = 1_000_000;

const cell = { start: 0, arrayFree: 1, readFree: 2, writeFree: 3, cacheFree: 4, head: 5, burstUsed: 6, lastWrite: 7, written: 8, cached: 9, requests: 10, streams: 11 } as const;

/** Memory of a pacer: may be shared between threads that take turns. */
export interface PacerState {
  readonly cells: Float64Array;
  readonly cacheMap: Uint8Array;
}

/** Bytes of memory that `pacerState` needs for so many streams and so large an address space. */
export function pacerStateBytes(streams: number, addressBytes: number): number {
  return 8 * (cell.streams + streams) + Math.ceil(addressBytes / granule);
}

/** Lays a pacer's state into zeroed memory, or over a state that is already there. */
export function pacerState(buffer: ArrayBufferLike, streams: number): PacerState {
  const cells = new Float64Array(buffer, 0, cell.streams + streams);
  return { cells, cacheMap: new Uint8Array(buffer, cells.byteLength) };
}

/**
 * Decides when a simulated volume would have answered. Drives and link are
 * first-in-first-out servers in a row; bytes pass through the link while the
 * drives still read on. A request that follows the one before in its stream has
 * been read ahead; a jump pays a round trip and a drive access.
 */
export class Pacer {
  constructor(private readonly model: StorageModel, private readonly state: PacerState) {}

  /**
   * @param nowUs any monotonic clock
   * @returns when the answer is complete on that clock; may be past
   * @throws Refusal where the model says so
   */
  admit(request: PacedRequest, nowUs: number): number {
    const { cells } = this.state;
    const { stream, address, bytes, write } = request;
    // Cells are zero at first: ends of streams are kept with one added, so that zero means none.
    const sequential = cells[cell.streams + stream] === address + 1;
    if (this.at(cell.requests) === 0) cells[cell.start] = nowUs;
    const elapsedUs = nowUs - this.at(cell.start);
    this.refuse(request, elapsedUs);
    const arrival = sequential ? nowUs - this.readAheadUs() : nowUs + this.model.link.roundTripUs;
    const cached = !write && this.isCached(address, bytes);
    const fromDrives = cached ? this.serve(cell.cacheFree, arrival, (bytes * 1e6) / this.model.cache.bytesPerSecond) : this.serveDrives(request, arrival, sequential, nowUs, elapsedUs);
    const free = write ? cell.writeFree : cell.readFree;
    const began = Math.max(arrival, this.at(free));
    const overLink = began + (bytes * 1e6) / this.linkRateAt(bytes, elapsedUs);
    const finished = this.past(began, Math.max(fromDrives, overLink));
    cells[free] = finished;
    cells[cell.streams + stream] = address + bytes + 1;
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
    if (fault?.kind === 'full' && write && this.at(cell.written) + bytes > fault.afterBytes) throw new Refusal('ENOSPC');
    if (fault?.kind === 'read-error' && !write && elapsedUs >= fault.atSeconds * 1e6) throw new Refusal('EIO');
  }

  private serve(free: number, arrival: number, serviceUs: number): number {
    const finished = Math.max(arrival, this.at(free)) + serviceUs;
    this.state.cells[free] = finished;
    return finished;
  }

  private serveDrives({ address, bytes, write }: PacedRequest, arrival: number, sequential: boolean, nowUs: number, elapsedUs: number): number {
    const { model, state: { cells } } = this;
    const { fault } = model;
    const slowest = fault?.kind === 'slow-drive' && elapsedUs >= fault.atSeconds * 1e6 ? fault.share : 1;
    const figures = arrayFigures(model, model.drive, slowest);
    const readAhead = sequential && Math.floor(address / granule) === Math.floor((address + bytes) / granule);
    const access = readAhead || this.at(cell.head) === address + 1 ? 0 : model.drive.accessUs * (write && !sequential ? figures.smallWriteAccesses : 1);
    cells[cell.head] = address + bytes + 1;
    const rate = write ? writeRate(model, figures.writeBytesPerSecond, this.useBurst(bytes, nowUs, figures.writeBytesPerSecond)) : figures.readBytesPerSecond;
    return this.serve(cell.arrayFree, arrival, access + (bytes * 1e6) / rate);
  }

  /** Whether the drives' burst caches still take a write; they empty at the sustained rate while nothing is written. */
  private useBurst(bytes: number, nowUs: number, sustained: number): boolean {
    const { cells } = this.state;
    const pause = nowUs - this.at(cell.lastWrite);
    if (pause > idleUs) cells[cell.burstUsed] = Math.max(0, this.at(cell.burstUsed) - (pause / 1e6) * sustained);
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
    const share = othersBytesPerSecond === 0 ? 0 : 0.5 + randomAt(seed, Math.floor(elapsedUs / othersChangeUs));
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
    for (let index = Math.floor(address / granule); index * granule < address + bytes; index++) if (this.state.cacheMap[index] !== 1) return false;
    return true;
  }

  /** Keeps the granules that end within a request, until the cache is full: the bytes before have been read, or are taken to be. */
  private keep(address: number, bytes: number): void {
    const { cacheMap, cells } = this.state;
    const most = Math.floor(this.model.cache.bytes / granule);
    for (let index = Math.floor(address / granule); (index + 1) * granule <= address + bytes && this.at(cell.cached) < most; index++) {
      if (cacheMap[index] !== 0) continue; // kept already, or beyond the address space
      cacheMap[index] = 1;
      cells[cell.cached] = this.at(cell.cached) + 1;
    }
  }
}
