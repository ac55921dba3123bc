import { BitReader, withoutEmulation } from './bits';
import { parameterSets } from './nalUnits';

/**
 * How many earlier pictures a frame may refer to, as the sequence parameter set
 * says: max_num_ref_frames of H.264, sps_max_dec_pic_buffering of HEVC without
 * the picture under way. Null for other codecs and where it cannot be read.
 */
export function referenceDepth(codecId: string, extradata: Uint8Array): number | null {
  if (codecId === 'h264') return h264Sequence(extradata)?.references ?? null;
  if (codecId !== 'hevc') return null;
  const { units } = parameterSets('hevc', extradata);
  const set = units.find((unit) => (((unit[0] ?? 0) >> 1) & 63) === 33);
  if (!set) return null;
  const bits = new BitReader(withoutEmulation(set.subarray(2)));
  const depth = hevcDepth(bits);
  return bits.ended || depth > 16 ? null : depth;
}

const profilesWithChroma = new Set([100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134]);

/** What an H.264 sequence parameter set says of the frames under it. */
export interface H264Sequence {
  /** max_num_ref_frames. */
  readonly references: number;
  /** Bits of frame_num in slice headers. */
  readonly frameNumBits: number;
  readonly separatePlanes: boolean;
  /** frame_mbs_only_flag: no picture is a field. */
  readonly framesOnly: boolean;
}

/** The first sequence parameter set of a stream's set-up data; null where there is none that can be read. Source: ITU-T H.264, 7.3.2.1.1 */
export function h264Sequence(extradata: Uint8Array): H264Sequence | null {
  const set = parameterSets('h264', extradata).units.find((unit) => ((unit[0] ?? 0) & 31) === 7);
  if (!set) return null;
  const bits = new BitReader(withoutEmulation(set.subarray(1)));
  const profile = bits.bits(8);
  bits.skip(16);
  bits.ue();
  let separatePlanes = false;
  if (profilesWithChroma.has(profile)) {
    const chroma = bits.ue();
    if (chroma === 3) separatePlanes = bits.bit() === 1;
    bits.ue();
    bits.ue();
    bits.skip(1);
    if (bits.bit())
      for (let list = 0; list < (chroma === 3 ? 12 : 8); list++)
        if (bits.bit()) skipScalingList(bits, list < 6 ? 16 : 64);
  }
  const frameNumBits = bits.ue() + 4;
  const orderType = bits.ue();
  if (orderType === 0) bits.ue();
  else if (orderType === 1) {
    bits.skip(1);
    bits.se();
    bits.se();
    for (let left = Math.min(255, bits.ue()); left > 0; left--) bits.se();
  }
  const references = bits.ue();
  bits.skip(1); // gaps_in_frame_num_value_allowed_flag
  bits.ue(); // pic_width_in_mbs_minus1
  bits.ue(); // pic_height_in_map_units_minus1
  const framesOnly = bits.bit() === 1;
  return bits.ended || references > 16 || frameNumBits > 16
    ? null
    : { references, frameNumBits, separatePlanes, framesOnly };
}

function skipScalingList(bits: BitReader, size: number): void {
  let last = 8;
  let next = 8;
  for (let i = 0; i < size && !bits.ended; i++) {
    if (next !== 0) next = (last + bits.se() + 256) % 256;
    last = next === 0 ? last : next;
  }
}

/** ITU-T H.265, 7.3.2.2.1 and 7.3.3. */
function hevcDepth(bits: BitReader): number {
  bits.skip(4);
  const subLayers = bits.bits(3);
  bits.skip(1);
  bits.skip(88 + 8);
  const present: (readonly [number, number])[] = [];
  for (let i = 0; i < subLayers; i++) present.push([bits.bit(), bits.bit()]);
  if (subLayers > 0) bits.skip(2 * (8 - subLayers));
  for (const [profile, level] of present) bits.skip(profile * 88 + level * 8);
  bits.ue();
  if (bits.ue() === 3) bits.skip(1);
  bits.ue();
  bits.ue();
  if (bits.bit()) for (let side = 0; side < 4; side++) bits.ue();
  bits.ue();
  bits.ue();
  bits.ue();
  const allLayers = bits.bit();
  let depth = 0;
  for (let layer = allLayers ? 0 : subLayers; layer <= subLayers; layer++) {
    depth = bits.ue();
    bits.ue();
    bits.ue();
  }
  return depth;
}
