/** Length of the size field in front of each NAL unit, or 0 when start codes are used (Annex B). */
export type NalLengthSize = 0 | 1 | 2 | 3 | 4;

/** The NAL units of a coded frame or of parameter sets, one after the other, without their size fields or start codes. */
export function* nalUnits(bytes: Uint8Array, lengthSize: NalLengthSize): Generator<Uint8Array> {
  let at = lengthSize === 0 ? startCode(bytes, 0) : 0;
  while (at < bytes.length) {
    if (lengthSize === 0) {
      const next = startCode(bytes, at);
      yield bytes.subarray(at, next >= bytes.length ? bytes.length : next - 3);
      at = next;
    } else {
      let size = 0;
      for (let i = 0; i < lengthSize; i++) size = size * 256 + (bytes[at + i] ?? 0);
      at += lengthSize;
      if (size === 0) return;
      yield bytes.subarray(at, at + size);
      at += size;
    }
  }
}

/** Where the unit behind the next start code (00 00 01) begins, or the end. */
function startCode(bytes: Uint8Array, from: number): number {
  for (let at = bytes.indexOf(1, from + 2); at !== -1; at = bytes.indexOf(1, at + 1)) {
    if (bytes[at - 1] === 0 && bytes[at - 2] === 0) return at + 1;
  }
  return bytes.length;
}

/** What a stream's set-up data tells of its NAL units: how their sizes are written, and the parameter sets in it. */
export function parameterSets(
  codec: 'h264' | 'hevc',
  extradata: Uint8Array,
): { readonly lengthSize: NalLengthSize; readonly units: readonly Uint8Array[] } {
  if (extradata[0] !== 1) return { lengthSize: 0, units: [...nalUnits(extradata, 0)] };
  return codec === 'h264' ? avcConfiguration(extradata) : hevcConfiguration(extradata);
}

/** AVCDecoderConfigurationRecord, ISO/IEC 14496-15, 5.3.3.1. */
function avcConfiguration(record: Uint8Array) {
  const units: Uint8Array[] = [];
  let at = 5;
  for (const mask of [0x1f, 0xff]) {
    const count = (record[at++] ?? 0) & mask;
    for (let i = 0; i < count && at + 2 <= record.length; i++) at = takeUnit(record, at, units);
  }
  return { lengthSize: (((record[4] ?? 3) & 3) + 1) as NalLengthSize, units };
}

/** HEVCDecoderConfigurationRecord, ISO/IEC 14496-15, 8.3.3.1. */
function hevcConfiguration(record: Uint8Array) {
  const units: Uint8Array[] = [];
  let at = 23;
  for (let array = 0; array < (record[22] ?? 0) && at + 3 <= record.length; array++) {
    const count = (record[at + 1] ?? 0) * 256 + (record[at + 2] ?? 0);
    at += 3;
    for (let i = 0; i < count && at + 2 <= record.length; i++) at = takeUnit(record, at, units);
  }
  return { lengthSize: (((record[21] ?? 3) & 3) + 1) as NalLengthSize, units };
}

function takeUnit(record: Uint8Array, at: number, units: Uint8Array[]): number {
  const size = (record[at] ?? 0) * 256 + (record[at + 1] ?? 0);
  units.push(record.subarray(at + 2, at + 2 + size));
  return at + 2 + size;
}
