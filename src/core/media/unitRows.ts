import { headerReader, keyReader, type HeaderReader } from './frameHeaders';
import type { PacketRow } from './packetTable';
import { EssenceWalk, type SoundUnits, type Wrapping } from './wrapping';

/** Bytes of a unit that are looked at: what stands in front of a frame's first slice lies well within. */
const headBytes = 8_192;

/**
 * Rows of a wrapped stream whose units hold one frame each, as nearly all writers lay them: found by what units begin with,
 * without taking the frames apart. Whether they do is for the caller to prove.
 */
export class UnitRows {
  readonly rows: PacketRow[] = [];
  private readonly walk: EssenceWalk;
  private readonly head = new Uint8Array(headBytes);
  private headLength = 0;
  private open: PacketRow | null = null;
  /** Some unit does not begin with a frame, or has no time: its rows are no use. */
  private broken = false;

  private constructor(
    wrapping: Wrapping,
    private readonly header: HeaderReader,
    private readonly key: (head: Uint8Array) => boolean | null,
    sound: SoundUnits | null,
  ) {
    this.walk = new EssenceWalk(wrapping, sound);
  }

  /** @param sound units of sound, found in the same walk @returns null for codecs whose frames it cannot tell */
  static of(
    wrapping: Wrapping,
    codec: string,
    extradata: Uint8Array,
    sound: SoundUnits | null = null,
  ): UnitRows | null {
    const [header, key] = [headerReader(codec, extradata), keyReader(codec)];
    return header && key && new UnitRows(wrapping, header, key, sound);
  }

  /** Whether every unit so far began a frame. */
  get holds(): boolean {
    return !this.broken;
  }

  /** @returns bytes that were gone through: see `EssenceWalk` */
  add(bytes: Uint8Array, isLast: boolean): number {
    const taken = this.walk.walk(
      bytes,
      {
        unit: (place, pts, dts) => this.begin(place, pts, dts),
        essence: (from, to) => {
          if (!this.open) return;
          this.open.size += to - from;
          const room = headBytes - this.headLength;
          if (room <= 0) return;
          const part = bytes.subarray(from, Math.min(to, from + room));
          this.head.set(part, this.headLength);
          this.headLength += part.length;
        },
      },
      isLast,
    );
    if (isLast) this.end();
    return taken;
  }

  private begin(offset: number, pts: number, dts: number): void {
    this.end();
    this.open = { offset, size: 0, pts, dts, key: false, disposable: false, type: '?' };
    this.headLength = 0;
    if (!Number.isFinite(dts)) this.broken = true;
  }

  /** What the unit that ends here holds. */
  private end(): void {
    const { open } = this;
    if (!open) return;
    this.open = null;
    const head = this.head.subarray(0, this.headLength);
    const key = this.key(head);
    const found = this.header(head);
    if (key === null || !found || found.field) this.broken = true;
    else this.rows.push({ ...open, key, type: found.type, disposable: found.disposable });
  }

  /** Where the last unit ends, once all is gone through. */
  get endsAt(): number {
    return this.walk.passed;
  }
}
