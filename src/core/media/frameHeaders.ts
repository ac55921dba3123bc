import { BitReader, withoutEmulation } from './bits';
import { nalUnits, parameterSets, type NalLengthSize } from './nalUnits';
import { h264Sequence, type H264Sequence } from './referenceDepth';
import type { CodedField, FrameType } from './packetTable';

/** What a coded frame's own header tells. */
export interface FrameHeader {
  readonly type: FrameType;
  /** No other frame refers to it, so a decoder may leave it out. */
  readonly disposable: boolean;
  /** Which field it is, where it is one alone. */
  readonly field?: CodedField | null;
}

/** Reads the header of a coded frame; null where there is none. */
export type HeaderReader = (packet: Uint8Array) => FrameHeader | null;

/** Bytes of a frame that are looked at: its first slice's header lies well within. */
const headerBytes = 64;

/** The reader for a codec, or null for codecs whose packets are told by their flags alone. @param codecId as the codec library spells it */
export function headerReader(codecId: string, extradata: Uint8Array): HeaderReader | null {
  switch (codecId) {
    case 'h264': {
      const { lengthSize } = parameterSets('h264', extradata);
      const sequence = h264Sequence(extradata);
      return (packet) => h264Header(packet, lengthSize, sequence);
    }
    case 'hevc': {
      const { lengthSize, units } = parameterSets('hevc', extradata);
      const extraBits = hevcExtraSliceBits(units);
      return (packet) => hevcHeader(packet, lengthSize, extraBits);
    }
    case 'mpeg2video':
    case 'mpeg1video':
      return mpeg2Header;
    case 'mpeg4':
      return mpeg4Header;
    default:
      return null;
  }
}

/** Tells by a frame's beginning whether it is a key frame; null: it is no frame's beginning. Null for other codecs. */
export function keyReader(codecId: string): ((head: Uint8Array) => boolean | null) | null {
  switch (codecId) {
    case 'h264':
      return h264Key;
    case 'hevc':
      return hevcKey;
    case 'mpeg2video':
    case 'mpeg1video':
      return mpeg2Key;
    default:
      return null;
  }
}

const startsWithCode = (head: Uint8Array) =>
  head[0] === 0 && head[1] === 0 && (head[2] === 1 || (head[2] === 0 && head[3] === 1));

/** An access unit delimiter in front, and an IDR picture, or a recovery point (ITU-T H.264, 7.4.1.2.3 and D.2.8). */
function h264Key(head: Uint8Array): boolean | null {
  if (!startsWithCode(head)) return null;
  let isFirst = true;
  let recovers = false;
  for (const unit of nalUnits(head, 0)) {
    const unitType = (unit[0] ?? 0) & 31;
    if (isFirst && unitType !== 9) return null;
    isFirst = false;
    if (unitType === 6 && hasRecoveryPoint(unit)) recovers = true;
    if (unitType === 5) return true;
    if (unitType >= 1 && unitType < 5) return recovers;
  }
  return null;
}

/** Whether a message unit holds a recovery point: payload type 6 (ITU-T H.264, 7.3.2.3.1). */
function hasRecoveryPoint(unit: Uint8Array): boolean {
  const bytes = withoutEmulation(unit.subarray(1));
  for (let at = 0; at + 2 < bytes.length;) {
    const [type, sizeAt] = longNumber(bytes, at);
    const [size, dataAt] = longNumber(bytes, sizeAt);
    if (type === 6) return true;
    at = dataAt + size;
  }
  return false;
}

/** A number in bytes, of which 255 goes on; and where it ends. */
function longNumber(bytes: Uint8Array, from: number): readonly [number, number] {
  let at = from;
  let value = 0;
  while (bytes[at] === 255) {
    value += 255;
    at++;
  }
  return [value + (bytes[at] ?? 0), at + 1];
}

/** What may stand in front of a picture: parameter sets, delimiter, messages for it. */
const frontOfHevc = new Set([32, 33, 34, 35, 39]);
/** first_slice_segment_in_pic_flag. */
const isFirstSlice = (unit: Uint8Array, unitType: number) => unitType <= 31 && (unit[2] ?? 0) >= 128;

/** What begins an access unit in front, and whether decoding may begin at its picture (ITU-T H.265, 7.4.2.4.4 and table 7-1). */
function hevcKey(head: Uint8Array): boolean | null {
  if (!startsWithCode(head)) return null;
  let isFirst = true;
  for (const unit of nalUnits(head, 0)) {
    const unitType = ((unit[0] ?? 0) >> 1) & 63;
    if (isFirst && !frontOfHevc.has(unitType) && !isFirstSlice(unit, unitType)) return null;
    isFirst = false;
    if (unitType <= 31) return unitType >= 16 && unitType <= 23;
  }
  return null;
}

/** A sequence's, a group's or a picture's header in front (ITU-T H.262, 6.2.2 and 6.2.3). */
function mpeg2Key(head: Uint8Array): boolean | null {
  const front = head[3] as number;
  if (!startsWithCode(head) || head[2] !== 1 || ![0xb3, 0xb8, 0].includes(front)) return null;
  return mpeg2Header(head)?.type === 'I';
}

const h264Types: readonly FrameType[] = ['P', 'B', 'I', 'P', 'I'];

/** First slice of an H.264 frame: nal_ref_idc, slice_type and whether it is a field (ITU-T H.264, 7.4.1, 7.3.3 and table 7-6). */
function h264Header(
  packet: Uint8Array,
  lengthSize: NalLengthSize,
  sequence: H264Sequence | null,
): FrameHeader | null {
  for (const unit of nalUnits(packet, lengthSize)) {
    const header = unit[0] ?? 0;
    const unitType = header & 31;
    if (unitType < 1 || unitType > 5) continue;
    const bits = new BitReader(withoutEmulation(unit.subarray(1, headerBytes)));
    bits.ue(); // first_mb_in_slice
    const type = h264Types[bits.ue() % 5] ?? '?';
    const field = fieldOf(bits, sequence);
    return { type, disposable: header >> 5 === 0, ...(field && { field }) };
  }
  return null;
}

/** What follows a slice's type (ITU-T H.264, 7.3.3). */
function fieldOf(bits: BitReader, sequence: H264Sequence | null): CodedField | null {
  if (!sequence || sequence.framesOnly) return null;
  bits.ue(); // pic_parameter_set_id
  if (sequence.separatePlanes) bits.skip(2);
  const frameNum = bits.bits(sequence.frameNumBits);
  return bits.bit() ? { bottom: bits.bit() === 1, frameNum } : null;
}

const hevcTypes: readonly FrameType[] = ['B', 'P', 'I'];

/** First slice of an HEVC frame (ITU-T H.265, 7.3.6.1 and table 7-1): even unit types below 16 are not referred to within their sub-layer. */
function hevcHeader(
  packet: Uint8Array,
  lengthSize: NalLengthSize,
  extraSliceBits: number,
): FrameHeader | null {
  for (const unit of nalUnits(packet, lengthSize)) {
    const unitType = ((unit[0] ?? 0) >> 1) & 63;
    if (unitType > 31) continue;
    const bits = new BitReader(withoutEmulation(unit.subarray(2, headerBytes)));
    const first = bits.bit();
    if (unitType >= 16 && unitType <= 23) bits.skip(1); // no_output_of_prior_pics_flag
    bits.ue(); // slice_pic_parameter_set_id
    if (!first) return null;
    bits.skip(extraSliceBits);
    return { type: hevcTypes[bits.ue()] ?? '?', disposable: unitType < 16 && unitType % 2 === 0 };
  }
  return null;
}

/** num_extra_slice_header_bits of the first picture parameter set (ITU-T H.265, 7.3.2.3). */
function hevcExtraSliceBits(units: readonly Uint8Array[]): number {
  const set = units.find((unit) => (((unit[0] ?? 0) >> 1) & 63) === 34);
  if (!set) return 0;
  const bits = new BitReader(withoutEmulation(set.subarray(2)));
  bits.ue();
  bits.ue();
  bits.skip(2);
  return bits.bits(3);
}

const mpeg2Types: readonly FrameType[] = ['?', 'I', 'P', 'B'];

/** Picture header of MPEG-2 video: start code 00, picture_coding_type (ITU-T H.262, 6.2.3). */
function mpeg2Header(packet: Uint8Array): FrameHeader | null {
  for (const unit of nalUnits(packet.subarray(0, 4_096), 0)) {
    if (unit[0] !== 0) continue;
    const type = mpeg2Types[((unit[2] ?? 0) >> 3) & 7] ?? '?';
    return { type, disposable: type === 'B' };
  }
  return null;
}

const mpeg4Types: readonly FrameType[] = ['I', 'P', 'B', 'P'];

/** vop_coding_type behind start code B6 (ISO/IEC 14496-2, 6.2.5). */
function mpeg4Header(packet: Uint8Array): FrameHeader | null {
  for (const unit of nalUnits(packet.subarray(0, 4_096), 0)) {
    if (unit[0] !== 0xb6) continue;
    const type = mpeg4Types[(unit[1] ?? 0) >> 6] ?? '?';
    return { type, disposable: type === 'B' };
  }
  return null;
}
