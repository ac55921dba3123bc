/** Reads bits off coded headers, most significant first. Beyond the end it reads zeros. */
export class BitReader {
  private at = 0;

  constructor(private readonly bytes: Uint8Array) {}

  bit(): number {
    const byte = this.bytes[this.at >> 3] ?? 0;
    return (byte >> (7 - (this.at++ & 7))) & 1;
  }

  /** An unsigned number of up to 32 bits. */
  bits(count: number): number {
    let value = 0;
    for (let i = 0; i < count; i++) value = value * 2 + this.bit();
    return value;
  }

  skip(count: number): void {
    this.at += count;
  }

  get ended(): boolean {
    return this.at > this.bytes.length * 8;
  }

  /** Unsigned Exp-Golomb code (ITU-T H.264, 9.1). A code longer than 32 zeros reads as 0: the data is damaged. */
  ue(): number {
    let zeros = 0;
    while (this.bit() === 0) if (++zeros > 32 || this.ended) return 0;
    return 2 ** zeros - 1 + this.bits(zeros);
  }

  /** Signed Exp-Golomb code. */
  se(): number {
    const code = this.ue();
    return code % 2 === 1 ? (code + 1) / 2 : -code / 2;
  }
}

/** Takes out the bytes that keep start codes from appearing inside a NAL unit (ITU-T H.264, 7.4.1). */
export function withoutEmulation(unit: Uint8Array): Uint8Array {
  const out = new Uint8Array(unit.length);
  let length = 0;
  let zeros = 0;
  for (const byte of unit) {
    if (zeros >= 2 && byte === 3) {
      zeros = 0;
      continue;
    }
    zeros = byte === 0 ? zeros + 1 : 0;
    out[length++] = byte;
  }
  return out.subarray(0, length);
}
