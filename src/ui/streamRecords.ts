/** Splits a stream into records of an eight-byte head (two uint32, little-endian) and a body, as bytes arrive. */
export class StreamRecords<Record> {
  private pending = new Uint8Array(0);

  /** @param bodyBytes length of the body that a head announces @param read makes a record of a head and its body */
  constructor(
    private readonly bodyBytes: (first: number, second: number) => number,
    private readonly read: (first: number, second: number, body: Uint8Array<ArrayBuffer>) => Record,
  ) {}

  /** Takes bytes; returns the records that are whole now. */
  push(bytes: Uint8Array): Record[] {
    const joined = new Uint8Array(this.pending.length + bytes.length);
    joined.set(this.pending);
    joined.set(bytes, this.pending.length);
    const records: Record[] = [];
    let at = 0;
    while (joined.length - at >= 8) {
      const head = new DataView(joined.buffer, at, 8);
      const [first, second] = [head.getUint32(0, true), head.getUint32(4, true)];
      const length = this.bodyBytes(first, second);
      if (joined.length - at - 8 < length) break;
      records.push(this.read(first, second, joined.slice(at + 8, at + 8 + length)));
      at += 8 + length;
    }
    this.pending = joined.slice(at);
    return records;
  }
}
