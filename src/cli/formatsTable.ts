import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { AVCodecID, FFEncoderCodec } from 'node-av/constants';
import { avGetCodecName, Codec } from 'node-av/lib';
import { codecLabel, formatLabel } from '@/core/media/format';
import { readFrameCode } from '@/core/media/frameCode';
import { renditionPresets } from '@/core/rendition/presets';
import { seededRandom } from '@/core/stats/random';
import { exportCodecs } from '@/core/tasks/exportCodecs';
import { formatSamples, pictureSamples } from '@/engine/testing/formatSamples';
import { writeTestMedia } from '@/engine/testing/testMedia';
import { FrameAccess } from '@/engine/codec/frameAccess';
import { lumaReader } from '@/engine/media/luma';
import { probeClip } from '@/engine/media/probe';
import type { ProbedClip } from '@/engine/media/streamFacts';
import { projectRoot } from './bundle';

export const formatsFile = join(projectRoot, 'docs/formats.md');

/** Codecs of this trade that the codec library may decode and nothing here can write: no sample of them is played by a test. */
const withoutSample = ['prores_raw', 'apv', 'vvc', 'jpegxs', 'vc1'];

/** Encoders by which files are written, by the codec that they write. */
function writtenBy(codec: AVCodecID): string[] {
  const writes = (encoder: string) => Codec.findEncoderByName(encoder as FFEncoderCodec)?.id === codec;
  return [
    ...(Object.values(exportCodecs).some(({ encoder }) => writes(encoder)) ? ['export'] : []),
    ...(renditionPresets.some(({ encoder }) => writes(encoder)) ? ['rendition'] : []),
  ];
}

/** Whether the library knows of devices that decode a codec. */
const hasDevices = (codec: AVCodecID): boolean =>
  (Codec.getCodecList() ?? []).some(
    (one) => one.isDecoder() && one.id === codec && one.getHwConfig(0) !== null,
  );

const kept = (good: number, all: number): string =>
  good === all ? 'yes' : good === 0 ? 'no' : `${good} of ${all}`;

/** Frames that came out, and showed their number where that can be read, of those that were asked for. */
async function shown(path: string, clip: ProbedClip, slots: readonly number[]): Promise<number> {
  const { setup, packets, format } = clip;
  const reader = await FrameAccess.open({ path, setup, packets, rate: format.rate });
  let good = 0;
  try {
    for (const slot of slots) {
      const frame = await reader.frame(slot);
      const luma = frame && lumaReader(frame);
      if (frame && (!luma || readFrameCode(frame.width, frame.height, luma) === slot)) good++;
      frame?.free();
    }
  } finally {
    await reader.close();
  }
  return good;
}

/** One line: what is done with a generated clip. */
async function lineOf(name: string, path: string): Promise<string> {
  const clip = await probeClip(path);
  const { format, setup, frames } = clip;
  const codec = setup.codecId as AVCodecID;
  const inOrder = Array.from({ length: frames }, (_, slot) => slot);
  const random = seededRandom(7);
  const jumps = Array.from({ length: 8 }, () => Math.floor(random() * frames));
  const cells = [
    name,
    format.container,
    formatLabel(format).replace(/, \d+x\d+$/, ''),
    kept(await shown(path, clip, inOrder), frames),
    kept(await shown(path, clip, jumps), jumps.length),
    hasDevices(codec) ? 'yes' : 'no',
    writtenBy(codec).join(', ') || 'no',
  ];
  return `| ${cells.join(' | ')} |`;
}

/** The table of formats, as this codec library and the test media give it. */
export async function formatsTable(): Promise<string> {
  const folder = await mkdtemp(join(tmpdir(), 'navvy-formats-'));
  try {
    const lines: string[] = [];
    for (const [at, [name, ending, media]] of formatSamples.entries()) {
      const path = join(folder, `sample-${at}.${ending}`);
      await writeTestMedia(path, media);
      lines.push(await lineOf(name, path));
    }
    for (const [ending, media] of pictureSamples) {
      await writeTestMedia(join(folder, `frames.%04d.${ending}`), { ...media, frames: 8 });
      lines.push(await lineOf(`A folder of .${ending} frames`, join(folder, `frames.####.${ending}`)));
    }
    const decoders = new Set(
      (Codec.getCodecList() ?? []).flatMap((one) => (one.isDecoder() ? [avGetCodecName(one.id) ?? ''] : [])),
    );
    const others = withoutSample.map(
      (codec) => `| ${codecLabel(codec)} | ${decoders.has(codec) ? 'yes' : 'no'} |`,
    );
    return `# Formats

Made by \`./navvy formats\` of the codec library that Navvy ships with, and of clips that its tests generate; a test holds it against both. Do not edit it by hand.

* **Played**: every frame, in order, came out of the decoder and showed the number that was drawn into it (where its first plane can be read as luma: else that it came out).
* **Scrubbed**: the same of eight jumps.
* **On a device**: the library knows kinds of devices that decode the codec. Whether one of this system does, and in which depth and raster, is tried out under *Decode support*.
* **Written**: as an export, or as a rendition.

| Sample | Container | Identified as | Played | Scrubbed | On a device | Written |
|---|---|---|---|---|---|---|
${lines.join('\n')}

## Without a sample

Nothing here writes these, so no test plays them. They are identified by what their container names, and played where the library has a decoder.

| Codec | Decoder |
|---|---|
${others.join('\n')}

Transport and program streams are told by their packets (188, 192 and 204 bytes), not by a file's ending. A clip whose codec has no decoder is listed with that, and still serves for streams, throughput, copies and planning.
`;
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

export const writeFormats = async (): Promise<void> => writeFile(formatsFile, await formatsTable());
