import { lstat } from 'node:fs/promises';
import { extname } from 'node:path';
import { AV_CODEC_ID_MJPEG } from 'node-av/constants';
import { Packet, type FormatContext } from 'node-av/lib';
import { bytesPerSlot, dataRate } from '@/core/media/dataRate';
import { pixelFormatFacts } from '@/core/media/format';
import { frameStructure } from '@/core/media/frameStructure';
import { gapsOf, pictureEndings } from '@/core/media/imageSequence';
import { packetTableFrom } from '@/core/media/packetTable';
import { rational, type Rational } from '@/core/time/rational';
import { EngineError } from '../errors';
import { MediaFile } from './container';
import { FirstFrame, identityOf, pixelFormatName } from './identify';
import { contentHash } from './contentHash';
import { sequenceAt, sequenceHash, type PlacedSequence } from './sequence';
import {
  codecOf,
  pictureStream,
  profileOf,
  setupOf,
  timecodeOf,
  undecodableBecause,
  type ProbedClip,
} from './streamFacts';

/** Frames a second of pictures that state no rate. */
const assumedRate: Rational = rational(24);

/** Pictures that are a clip: the files of a sequence, or one alone. */
export type Pictures = Pick<PlacedSequence, 'files' | 'sizes'> & { readonly placed: PlacedSequence | null };

/** The pictures that a path names; null where it names something else. @throws EngineError where a folder cannot be read */
export async function picturesAt(path: string): Promise<Pictures | null> {
  const placed = await sequenceAt(path);
  if (placed) return { ...placed, placed };
  if (!pictureEndings.has(extname(path).toLowerCase())) return null;
  const size = await lstat(path).then(
    (found) => found.size,
    () => 0,
  );
  return { files: [path], sizes: [size], placed: null };
}

/** Decodes the first packet of a file that holds one picture. */
function firstOf(input: FormatContext, stream: NonNullable<ReturnType<typeof pictureStream>>): FirstFrame {
  const first = new FirstFrame(stream);
  const packet = new Packet();
  packet.alloc();
  try {
    while (first.wantsMore && input.readFrameSync(packet) >= 0) {
      if (packet.streamIndex === stream.index) first.feed(packet);
      packet.unref();
    }
    if (first.wantsMore) first.feed(null);
    return first;
  } finally {
    first.close();
    packet.free();
  }
}

/**
 * Reads what a sequence of pictures, or a picture alone, is: by its first file. Each file is a packet; for one
 * that is missing that of the frame before stands in.
 * @throws EngineError when the first file is no picture
 */
export async function probePictures({ files, sizes, placed }: Pictures): Promise<ProbedClip> {
  const [head] = files as [string];
  const empty = sizes.findIndex((size) => size === 0);
  if (empty >= 0) throw new EngineError('empty-file', { path: files[empty] as string });
  const file = await MediaFile.open(head);
  if (!file) throw new EngineError('no-media', { path: head });
  try {
    const { input } = file;
    await input.findStreamInfo();
    const stream = pictureStream(input);
    if (!stream) throw new EngineError('no-moving-picture', { path: head });
    const first = firstOf(input, stream);
    let end = 0;
    const packets = packetTableFrom(
      sizes.map((size, at) => ({
        offset: (end += size) - size,
        size,
        pts: at,
        dts: at,
        key: true,
        disposable: false,
        type: 'I',
      })),
    );
    const rate = first.rate ?? assumedRate;
    const startTimecode = timecodeOf(input);
    const gaps = placed ? gapsOf(placed.sequence) : null;
    const identity = identityOf({
      input,
      stream,
      packets,
      first,
      layout: { indexAtEnd: null, edits: [] },
      framesCut: 0,
      missingFrames: 0,
      startTimecode,
    });
    return {
      format: {
        container: placed ? 'Image sequence' : 'Still',
        // The codec of pictures that move is that of pictures that do not.
        codec: stream.codecpar.codecId === AV_CODEC_ID_MJPEG ? 'JPEG' : codecOf(stream),
        profile: profileOf(stream),
        ...pixelFormatFacts(pixelFormatName(stream, first)),
        width: stream.codecpar.width,
        height: stream.codecpar.height,
        rate,
      },
      structure: frameStructure(packets, null),
      identity: {
        ...identity,
        ...(gaps && gaps.frames > 0 && { gaps }),
        ...(placed && first.rate === null && { rateAssumed: true }),
      },
      frames: packets.length,
      timeBase: rational(rate.den, rate.num),
      startTimecode,
      ...dataRate(bytesPerSlot(packets), rate),
      setup: { ...setupOf(stream, first), ...(placed && { sequence: placed.sequence }) },
      packets,
      sound: null,
      contentHash: placed ? await sequenceHash(placed) : await contentHash(head),
      problem: undecodableBecause(stream) ?? first.problem,
    };
  } finally {
    await file.close();
  }
}
