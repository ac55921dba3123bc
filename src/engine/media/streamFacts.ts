import { AVMEDIA_TYPE_VIDEO, AV_CODEC_ID_NONE } from 'node-av/constants';
import { avGetCodecName, Codec, type FormatContext, type Stream } from 'node-av/lib';
import type { ImageSequence } from '@/core/media/imageSequence';
import type { TakeFile } from '@/core/media/takes';
import type { Wrapping } from '@/core/media/wrapping';
import { codecLabel, profileLabel, type Format } from '@/core/media/format';
import type { FrameStructure } from '@/core/media/frameStructure';
import type { ClipIdentity } from '@/core/media/identity';
import type { SoundTable } from '@/core/media/soundTable';
import type { PacketTable } from '@/core/media/packetTable';
import type { Rational } from '@/core/time/rational';
import type { FirstFrame } from './identify';

/** What a decoder must be told before the first packet. */
export interface CodecSetup {
  readonly codecId: number;
  readonly codecTag: number;
  readonly pixelFormat: number;
  readonly width: number;
  readonly height: number;
  readonly profile: number;
  readonly level: number;
  readonly bitsPerCodedSample: number;
  /** Base64. */
  readonly extradata: string | null;
  /** How its container cuts it into pieces; absent where frames lie whole. */
  readonly wrapping?: Wrapping | undefined;
  /** Files of a clip that has one for each frame; absent where it is one file. */
  readonly sequence?: ImageSequence | undefined;
  /** Files of a take that a camera split; absent where it is one file. */
  readonly parts?: readonly TakeFile[] | undefined;
}

/** What a decoder of sound must be told before the first packet. */
export interface SoundSetup {
  /** In words: "stereo AAC, 48 kHz". */
  readonly label: string;
  /** Samples stand in its packets as they are, or coded without loss. */
  readonly isStored: boolean;
  readonly codecId: number;
  readonly codecTag: number;
  readonly sampleFormat: number;
  readonly sampleRate: number;
  readonly channels: number;
  readonly profile: number;
  readonly bitsPerCodedSample: number;
  /** Base64. */
  readonly extradata: string | null;
  /** How its container cuts it into pieces; absent where packets lie whole. */
  readonly wrapping?: Wrapping | undefined;
}

/** The sound of a clip's best track, for a run that plays it. */
export interface SoundSource {
  readonly setup: SoundSetup;
  /** Packed table of its packets. */
  readonly packets: Uint8Array;
}

/** Everything a clip's file tells: identity, frame structure, rates, and where each packet lies. */
export interface ProbedClip {
  readonly format: Format;
  readonly structure: FrameStructure;
  readonly identity: ClipIdentity;
  readonly frames: number;
  readonly timeBase: Rational;
  readonly startTimecode: string | null;
  readonly meanBitsPerSecond: number;
  readonly peakBitsPerSecond: number;
  readonly setup: CodecSetup;
  readonly packets: PacketTable;
  /** Where its sound lies; null where it has none, or none that can be read by byte range and decoded. */
  readonly sound: { readonly setup: SoundSetup; readonly packets: SoundTable } | null;
  /** SHA-256 over the size and the first and last megabyte. */
  readonly contentHash: string;
  /** What stands in the way of playing it, or null. */
  readonly problem: string | null;
}

/** What a decoder of a stream must be told. @param first of its frames: what it decodes to may differ from what the container says */
export function setupOf({ codecpar }: Stream, first: FirstFrame): CodecSetup {
  return {
    codecId: codecpar.codecId,
    codecTag: codecpar.codecTag,
    pixelFormat: first.pixelFormat ?? codecpar.format,
    width: codecpar.width,
    height: codecpar.height,
    profile: codecpar.profile,
    level: codecpar.level,
    bitsPerCodedSample: codecpar.bitsPerCodedSample,
    extradata: codecpar.extradata?.toString('base64') ?? null,
  };
}

/** A stream's codec as the codec library spells it. */
export const codecNameOf = ({ codecpar }: Stream): string => avGetCodecName(codecpar.codecId) ?? 'unknown';

/** A stream's codec as a format names it. */
export const codecOf = (stream: Stream): string =>
  stream.codecpar.codecId === AV_CODEC_ID_NONE
    ? `unknown codec "${stream.codecpar.codecTagString ?? '?'}"`
    : codecLabel(codecNameOf(stream));

/** A stream's profile as a format names it; null where it has none. */
export const profileOf = (stream: Stream): string | null =>
  profileLabel(codecNameOf(stream), stream.codecpar.profile) ?? profileOfLibrary(stream);

/** The codec library's own name of a profile. */
function profileOfLibrary({ codecpar }: Stream): string | null {
  const known = Codec.findDecoder(codecpar.codecId)?.profiles?.find(
    ({ profile }) => profile === codecpar.profile,
  ) as { name?: string } | undefined;
  return known?.name ?? null;
}
/** The best picture stream; one of an unknown codec where there is no other. */
export function pictureStream(input: FormatContext): Stream | null {
  const best = input.streams[input.findBestStream(AVMEDIA_TYPE_VIDEO)];
  return best ?? input.streams.find(({ codecpar }) => codecpar.codecType === AVMEDIA_TYPE_VIDEO) ?? null;
}

/** The timecode that a container states at its beginning; null where it states none. */
export function timecodeOf(input: FormatContext): string | null {
  for (const stream of input.streams) {
    const value = stream.metadata?.get('timecode');
    if (value) return value;
  }
  return input.metadata?.get('timecode') ?? null;
}

/** Why no stream of its codec can be decoded here; null where it can. */
export function undecodableBecause(stream: Stream): string | null {
  const { codecId, codecTagString } = stream.codecpar;
  if (Codec.findDecoder(codecId)) return null;
  return codecId === AV_CODEC_ID_NONE
    ? `Its codec "${codecTagString ?? '?'}" is not known here: a closed camera raw form, or something newer than this codec library. Convert it with its maker’s software.`
    : `No decoder for ${codecOf(stream)} here. Its rates can be planned with; it cannot be played.`;
}
