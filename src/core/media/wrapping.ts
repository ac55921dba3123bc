import { partitionPoint } from '../stats/partitionPoint';

/**
 * How a stream's coded frames lie in a container that cuts them into small packets between those of other streams: a
 * transport stream or a program stream (ISO/IEC 13818-1). What is taken out of them, one after the other, is the elementary
 * stream; a piece of it with a header and times is a unit (PES packet), as which frames are written.
 */
export type Wrapping =
  | {
      readonly kind: 'transport';
      /** Bytes of a packet with all that stands around it: 188, 192 with a time in front, 204 with a check behind. */
      readonly packetBytes: number;
      /** Bytes in front of a packet's sync byte. */
      readonly lead: number;
      /** Packet identifier of the stream. */
      readonly pid: number;
    }
  | { readonly kind: 'program'; readonly streamId: number };

/** Told while a wrapping is walked through. */
export interface EssenceSink {
  /** A unit begins here, by its place in all that was walked. Times are in ticks of 90 kHz, as its header gives them; NaN where it gives none. */
  unit(at: number, pts: number, dts: number): void;
  /** Bytes of the elementary stream, by their places in the piece that is walked. */
  essence(from: number, to: number): void;
}

const syncByte = 0x47;

/** Where transport packets lie in the head of a file; null where there are none. Source: ISO/IEC 13818-1, 2.4.3.2 */
export function transportPackets(head: Uint8Array): { packetBytes: number; lead: number } | null {
  for (const packetBytes of [188, 192, 204]) {
    const most = Math.min(16, Math.floor(head.length / packetBytes) - 1);
    if (most < 1) continue;
    for (let first = 0; first < packetBytes; first++) {
      let packets = 0;
      while (packets < most && head[first + packets * packetBytes] === syncByte) packets++;
      if (packets === most) return { packetBytes, lead: packetBytes === 192 ? 4 : 0 };
    }
  }
  return null;
}

/** Goes through wrapped bytes, piece by piece, in the order of the file. */
export class EssenceWalk {
  /** Bytes of a unit's header that the next packet still holds. */
  private headerLeft = 0;
  /** A unit has begun: what stands before the first belongs to none. */
  private begun = false;
  /** Bytes that were gone through in all pieces. */
  passed = 0;

  /** @param sound of which the units are found besides, where they are */
  constructor(
    private readonly wrapping: Wrapping,
    private readonly sound: SoundUnits | null = null,
  ) {}

  /**
   * @param isLast nothing follows: a packet that is cut off is taken for what it holds
   * @returns bytes that it went through; the others begin a packet that goes on in the next piece and must be given again
   */
  walk(bytes: Uint8Array, sink: EssenceSink, isLast = false): number {
    const taken =
      this.wrapping.kind === 'transport'
        ? this.walkTransport(bytes, this.wrapping, sink)
        : this.walkProgram(bytes, this.wrapping.streamId, sink, isLast);
    this.passed += taken;
    return taken;
  }

  private walkTransport(
    bytes: Uint8Array,
    { packetBytes, lead, pid }: Extract<Wrapping, { kind: 'transport' }>,
    sink: EssenceSink,
  ): number {
    let at = 0;
    while (at + packetBytes <= bytes.length) {
      const sync = at + lead;
      if (bytes[sync] !== syncByte) {
        at = nextPacket(bytes, at + 1, packetBytes, lead);
        continue;
      }
      const second = bytes[sync + 1] as number;
      const packetId = ((second & 0x1f) << 8) | (bytes[sync + 2] as number);
      if (packetId === this.sound?.id) this.sound.packet(bytes, at, sync, packetBytes, this.passed);
      if (packetId === pid) {
        const control = bytes[sync + 3] as number;
        const end = sync + 188;
        let from = sync + 4;
        if (control & 0x20) from += 1 + (bytes[from] as number);
        if (control & 0x10 && from < end)
          this.takeTransport(bytes, at, from, end, (second & 0x40) !== 0, sink);
      }
      at += packetBytes;
    }
    return at;
  }

  private takeTransport(
    bytes: Uint8Array,
    packet: number,
    from: number,
    end: number,
    startsUnit: boolean,
    sink: EssenceSink,
  ): void {
    if (startsUnit) {
      this.begun = isStartCode(bytes, from) && from + 9 <= end;
      if (!this.begun) return;
      this.headerLeft = 9 + (bytes[from + 8] as number);
      const { pts, dts } = unitTimes(bytes, from, end);
      sink.unit(this.passed + packet, pts, dts);
    }
    if (!this.begun) return;
    const skipped = Math.min(this.headerLeft, end - from);
    this.headerLeft -= skipped;
    if (from + skipped < end) sink.essence(from + skipped, end);
  }

  private walkProgram(bytes: Uint8Array, streamId: number, sink: EssenceSink, isLast: boolean): number {
    let at = 0;
    while (at + 6 <= bytes.length) {
      const id = bytes[at + 3] as number;
      if (!isStartCode(bytes, at) || id < 0xb9) {
        at = nextProgramCode(bytes, at + 1);
        continue;
      }
      const length = programBytes(bytes, at, id);
      if (length === null) return at;
      const end = at + length;
      if (end > bytes.length && !isLast) return at;
      if (id === this.sound?.id) this.sound.unit(bytes, at, Math.min(end, bytes.length), this.passed);
      if (id === streamId) {
        const stop = Math.min(end, bytes.length);
        const from = at + unitHeaderBytes(bytes, at, stop);
        const { pts, dts } = unitTimes(bytes, at, stop);
        sink.unit(this.passed + at, pts, dts);
        if (from < stop) sink.essence(from, stop);
      }
      at = end;
    }
    return Math.min(at, bytes.length);
  }
}

const isStartCode = (bytes: Uint8Array, at: number) =>
  bytes[at] === 0 && bytes[at + 1] === 0 && bytes[at + 2] === 1;

/** Where transport packets go on after bytes that are none: two in a row where so many are there. */
function nextPacket(bytes: Uint8Array, from: number, packetBytes: number, lead: number): number {
  for (let at = from; at + packetBytes <= bytes.length; at++) {
    const next = at + lead + packetBytes;
    if (bytes[at + lead] === syncByte && (next >= bytes.length || bytes[next] === syncByte)) return at;
  }
  return Math.max(from, bytes.length - packetBytes + 1);
}

function nextProgramCode(bytes: Uint8Array, from: number): number {
  for (let at = bytes.indexOf(1, from + 2); at !== -1 && at + 1 < bytes.length; at = bytes.indexOf(1, at + 1))
    if (bytes[at - 1] === 0 && bytes[at - 2] === 0 && (bytes[at + 1] as number) >= 0xb9) return at - 2;
  return Math.max(from, bytes.length - 3);
}

/** Bytes of what begins with a start code of a program stream; null where more of it is needed. Source: ISO/IEC 13818-1, 2.5.3; ISO/IEC 11172-1, 2.4.3 */
function programBytes(bytes: Uint8Array, at: number, id: number): number | null {
  if (id === 0xb9) return 4;
  if (id !== 0xba) return 6 + ((bytes[at + 4] as number) << 8) + (bytes[at + 5] as number);
  if (((bytes[at + 4] as number) & 0xc0) !== 0x40) return 12;
  return at + 14 > bytes.length ? null : 14 + ((bytes[at + 13] as number) & 7);
}

/** Bytes of a unit's header in a program stream, of either edition. Source: ISO/IEC 13818-1, 2.4.3.6; ISO/IEC 11172-1, 2.4.3.3 */
function unitHeaderBytes(bytes: Uint8Array, at: number, stop: number): number {
  if (((bytes[at + 6] as number) & 0xc0) === 0x80) return 9 + (bytes[at + 8] ?? 0);
  const from = firstEditionTimes(bytes, at, stop);
  const times = (bytes[from] ?? 0) >> 4;
  return from - at + (times === 2 ? 5 : times === 3 ? 10 : 1);
}

/** Where the times stand in a unit's header of the first edition. Source: ISO/IEC 11172-1, 2.4.3.3 */
function firstEditionTimes(bytes: Uint8Array, at: number, stop: number): number {
  let from = at + 6;
  while (from < stop && bytes[from] === 0xff) from++;
  return ((bytes[from] ?? 0) & 0xc0) === 0x40 ? from + 2 : from;
}

/** When such a unit is shown; NaN where it gives no time. */
function firstEditionTime(bytes: Uint8Array, at: number, stop: number): number {
  const from = firstEditionTimes(bytes, at, stop);
  const times = (bytes[from] ?? 0) >> 4;
  return (times === 2 || times === 3) && from + 5 <= stop ? time(bytes, from) : Number.NaN;
}

/** 33 bits in five bytes, with marks between. */
const time = (bytes: Uint8Array, at: number): number =>
  (((bytes[at] as number) >> 1) & 7) * 2 ** 30 +
  (bytes[at + 1] as number) * 2 ** 22 +
  ((bytes[at + 2] as number) >> 1) * 2 ** 15 +
  (bytes[at + 3] as number) * 2 ** 7 +
  ((bytes[at + 4] as number) >> 1);

/** Times in a unit's header of the second edition; a unit without a time of decoding is decoded when it is shown. Source: ISO/IEC 13818-1, 2.4.3.6 */
function unitTimes(bytes: Uint8Array, at: number, stop: number): { pts: number; dts: number } {
  const flags = ((bytes[at + 6] as number) & 0xc0) === 0x80 ? (bytes[at + 7] as number) >> 6 : 0;
  const given = (from: number) => (from + 5 <= stop ? time(bytes, from) : Number.NaN);
  const pts = flags & 2 ? given(at + 9) : Number.NaN;
  return { pts, dts: flags === 3 ? given(at + 14) : pts };
}

/** A unit of sound: its bytes in the file, with what stands between its pieces, and its time in ticks of 90 kHz; NaN where it gives none. */
export interface SoundUnit {
  readonly offset: number;
  end: number;
  readonly pts: number;
}

/** Where the units of a wrapped stream of sound lie, found while its pictures are walked through. */
export class SoundUnits {
  readonly rows: SoundUnit[] = [];

  constructor(
    readonly wrapping: Wrapping,
    /** Packet identifier, or the start code of its units. */
    readonly id: number,
  ) {}

  /** A transport packet of it. @param passed what was walked before these bytes */
  packet(bytes: Uint8Array, at: number, sync: number, packetBytes: number, passed: number): void {
    const startsUnit = ((bytes[sync + 1] as number) & 0x40) !== 0;
    const end = passed + at + packetBytes;
    if (startsUnit) {
      const adaptation = (bytes[sync + 3] as number) & 0x20 ? 1 + (bytes[sync + 4] as number) : 0;
      const { pts } = unitTimes(bytes, sync + 4 + adaptation, sync + 188);
      this.rows.push({ offset: passed + at, end, pts });
      return;
    }
    const open = this.rows.at(-1);
    if (open) open.end = end;
  }

  /** A unit of a program stream. */
  unit(bytes: Uint8Array, at: number, end: number, passed: number): void {
    const isFirstEdition = ((bytes[at + 6] as number) & 0xc0) !== 0x80;
    const pts = isFirstEdition ? firstEditionTime(bytes, at, end) : unitTimes(bytes, at, end).pts;
    this.rows.push({ offset: passed + at, end: passed + end, pts });
  }

  /** Forgets what was found: the walk begins anew. */
  clear(): void {
    this.rows.length = 0;
  }
}

/** Start codes of sound in a program stream whose units hold nothing but its elementary stream. Source: ISO/IEC 13818-1, table 2-22 */
const isPlainSound = (id: number) => id >= 0xc0 && id <= 0xdf;

/** Units of sound beside wrapped pictures. @param streamId as the demultiplexer numbers it @returns null where they are of a private kind */
export function soundUnitsOf(pictures: Wrapping, streamId: number): SoundUnits | null {
  if (pictures.kind === 'transport') return new SoundUnits({ ...pictures, pid: streamId }, streamId);
  const id = streamId & 0xff;
  return isPlainSound(id) ? new SoundUnits({ kind: 'program', streamId: id }, id) : null;
}

/** Where the units of a wrapped stream lie, and how much of the elementary stream stands before each. */
export class UnitMap {
  private places = new Float64Array(1_024);
  private before = new Float64Array(1_024);
  length = 0;
  /** Bytes of the elementary stream so far. */
  essenceBytes = 0;
  private readonly walk: EssenceWalk;

  /** @param sound of which the units are found besides */
  constructor(wrapping: Wrapping, sound: SoundUnits | null = null) {
    this.walk = new EssenceWalk(wrapping, sound);
  }

  /** @returns bytes that were gone through: see `EssenceWalk` */
  add(bytes: Uint8Array, isLast: boolean): number {
    return this.walk.walk(
      bytes,
      {
        unit: (place) => this.begin(place),
        essence: (from, to) => {
          this.essenceBytes += to - from;
        },
      },
      isLast,
    );
  }

  private begin(place: number): void {
    if (this.length === this.places.length) {
      this.places = twice(this.places);
      this.before = twice(this.before);
    }
    this.places[this.length] = place;
    this.before[this.length++] = this.essenceBytes;
  }

  placeOf(unit: number): number {
    return unit < this.length ? (this.places[unit] as number) : this.walk.passed;
  }

  essenceBefore(unit: number): number {
    return unit < this.length ? (this.before[unit] as number) : this.essenceBytes;
  }

  /** The unit that begins at a place of the file; -1 where none does. */
  unitAt(place: number): number {
    const unit = this.lastUpTo(this.places, place);
    return unit >= 0 && this.places[unit] === place ? unit : -1;
  }

  /** The unit that holds a byte of the elementary stream; of empty ones the last. */
  unitOf(essence: number): number {
    return this.lastUpTo(this.before, essence);
  }

  private lastUpTo(column: Float64Array, value: number): number {
    return partitionPoint(this.length, (at) => (column[at] as number) <= value) - 1;
  }
}

function twice(column: Float64Array): Float64Array<ArrayBuffer> {
  const larger = new Float64Array(column.length * 2);
  larger.set(column);
  return larger;
}

/** Where a frame lies: what must be read of the file, and what of the elementary stream in it is the frame. */
export interface WrappedPlace {
  /** First byte to read. */
  readonly offset: number;
  /** Bytes to read: with what stands between, of other streams. */
  readonly bytes: number;
  /** Bytes of the elementary stream in front of the frame. */
  readonly skip: number;
}

/**
 * Where coded frames lie in a wrapped stream, given by their bytes in coding order as a demultiplexer took them out, with the
 * unit that each begins in where it told that (its place in the file; below 0: not told).
 * Frames follow each other without a gap; where a damaged stream has one, they go on at the beginning of a unit, if
 * they always began there.
 * @returns null where frames and units cannot be brought together
 */
export function wrappedPlaces(
  map: UnitMap,
  frames: readonly { readonly place: number; readonly bytes: number }[],
): WrappedPlace[] | null {
  const places: WrappedPlace[] = [];
  let begins = 0;
  let atUnits = true;
  let told = -1;
  for (const { place, bytes } of frames) {
    const unit = place >= 0 && place !== told ? map.unitAt(place) : -1;
    told = place;
    if (unit >= 0) {
      const [from, to] = [map.essenceBefore(unit), map.essenceBefore(unit + 1)];
      if (begins < from || begins >= to) {
        if (!atUnits) return null;
        begins = from;
      }
      atUnits &&= begins === from;
    }
    const holding = map.unitOf(begins);
    if (holding < 0) return null;
    const end = map.unitOf(begins + bytes - 1) + 1;
    const offset = map.placeOf(holding);
    places.push({ offset, bytes: map.placeOf(end) - offset, skip: begins - map.essenceBefore(holding) });
    begins += bytes;
  }
  return places;
}

/** Takes a coded frame out of the bytes that were read for it. What is not there is missing at its end. @param bytes of the frame */
export function unwrap(wrapping: Wrapping, read: Uint8Array, skip: number, bytes: number): Uint8Array {
  const frame = new Uint8Array(bytes);
  let passed = 0;
  new EssenceWalk(wrapping).walk(
    read,
    {
      unit: () => undefined,
      essence: (from, to) => {
        const first = Math.max(from, from + skip - passed);
        const at = passed + (first - from) - skip;
        const length = Math.min(to - first, bytes - at);
        if (length > 0) frame.set(read.subarray(first, first + length), at);
        passed += to - from;
      },
    },
    true,
  );
  const there = Math.max(0, Math.min(bytes, passed - skip));
  return there < bytes ? frame.subarray(0, there) : frame;
}
