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
