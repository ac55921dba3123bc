import { count, fixed, megabitsPerSecond, milliseconds, size } from '@/core/format';
import type { ReactNode } from 'react';
import { gapsOf, sequenceSpan, type ImageSequence } from '@/core/media/imageSequence';
import type { TakeFile } from '@/core/media/takes';
import { audioLabel, rasterLabel, timingLabel } from '@/core/media/identity';
import { Facts } from '../parts/Figure';
import type { ClipPage } from '../pages';

type Rows = readonly (readonly [string, ReactNode])[];
const told = (value: string | null | undefined) => value ?? <span className="text-muted">not reported</span>;

/** A clip's identity in a technician's words, by subject; and what the file can serve for. */
export function ClipFacts({ page: { clip, uses } }: { page: ClipPage }) {
  return (
    <div className="grid gap-x-8 gap-y-5 lg:grid-cols-2">
      {clip.format && clip.identity && <Part title="Picture" rows={pictureRows(clip)} />}
      {clip.identity && (
        <Part
          title="Colour"
          rows={[
            ['Primaries', told(clip.identity.colour.primaries)],
            ['Transfer', told(clip.identity.colour.transfer)],
            ['Matrix', told(clip.identity.colour.matrix)],
            ['Range', told(clip.identity.colour.range)],
            ['Alpha', clip.identity.alpha ? 'yes' : 'no'],
            [
              'Pixel format',
              <span key="format" className="figure">
                {clip.identity.pixelFormat}
              </span>,
            ],
          ]}
        />
      )}
      {clip.structure && <Part title="Frames" rows={frameRows(clip)} />}
      <Part title="File" rows={fileRows(clip)} />
      <section aria-label="What it can be used for" className="lg:col-span-2">
        <h2 className="mb-2">What it can be used for</h2>
        <ul className="grid gap-x-8 gap-y-1 text-sm sm:grid-cols-2">
          {uses.map(({ use, possible, why }) => (
            <li key={use}>
              <span className={possible ? '' : 'text-signal-text'}>{possible ? 'Yes' : 'No'}</span>: {use}.{' '}
              <span className="text-muted">{why}</span>
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}

/** The files of a take, one under the other. */
const partsInWords = (parts: readonly TakeFile[]) =>
  parts.map(({ name, bytes }) => (
    <span key={name} className="block break-all">
      {name}, {size(bytes)}
    </span>
  ));

/** "240 files, numbered 1001 to 1243; 1040 to 1042 missing" */
function sequenceWords(sequence: ImageSequence, frames: number): string {
  const [first, last] = sequenceSpan(sequence);
  const gaps = gapsOf(sequence);
  return `${count(frames - gaps.frames)} files, numbered ${first} to ${last}${gaps.frames > 0 ? `; ${gaps.words} missing` : ''}`;
}

function Part({ title, rows }: { title: string; rows: Rows }) {
  return (
    <section aria-label={title}>
      <h2 className="mb-2">{title}</h2>
      <Facts rows={rows} />
    </section>
  );
}

function pictureRows({ format, identity, startTimecode, frames }: ClipPage['clip']): Rows {
  if (!format || !identity) return [];
  return [
    [
      'Codec',
      [format.codec, format.profile, identity.level && `level ${identity.level}`].filter(Boolean).join(', '),
    ],
    [
      'Codec string',
      <span key="string" className="figure">
        {identity.codecString ?? '–'}
      </span>,
    ],
    ['Depth, chroma', `${format.bitDepth}-bit ${format.chroma}`],
    ['Raster', rasterLabel(format, identity)],
    [
      'Scan',
      identity.scan === null
        ? 'not reported'
        : identity.scan === 'progressive'
          ? 'progressive'
          : `interlaced, ${identity.scan}`,
    ],
    ['Rate', timingLabel(format.rate, identity.timing)],
    ['Duration', `${count(frames ?? 0)} frames`],
    [
      'Timecode',
      startTimecode === null
        ? 'no track'
        : `${startTimecode}, ${identity.dropFrame ? 'drop-frame' : 'non-drop'}`,
    ],
  ];
}

function frameRows({ structure, meanBitsPerSecond, peakBitsPerSecond }: ClipPage['clip']): Rows {
  if (!structure) return [];
  const { intra, keyInterval, hasBFrames, openGop, referenceDepth } = structure;
  return [
    ['Structure', intra ? 'intra: every frame by itself' : 'long-GOP'],
    [
      'Key frames',
      intra
        ? 'every frame'
        : keyInterval
          ? keyInterval.min === keyInterval.max
            ? `every ${keyInterval.min} frames`
            : `every ${keyInterval.min} to ${keyInterval.max} frames, mean ${fixed(keyInterval.mean, 1)}`
          : 'one only',
    ],
    ['B-frames', hasBFrames ? 'yes' : 'no'],
    ['GOP', intra ? '–' : openGop ? 'open' : 'closed'],
    ['Reference depth', intra ? '0' : (referenceDepth?.toString() ?? 'not reported')],
    ['Mean rate', megabitsPerSecond(meanBitsPerSecond)],
    ['Worst second', megabitsPerSecond(peakBitsPerSecond)],
  ];
}

function fileRows({
  format,
  identity,
  sizeBytes,
  contentHash,
  indexMs,
  sequence,
  parts,
  frames,
}: ClipPage['clip']): Rows {
  const where =
    identity?.indexAtEnd === null || !identity
      ? []
      : [['Index', identity.indexAtEnd ? 'at the end' : 'at the beginning'] as const];
  return [
    ['Container', format?.container ?? 'not known'],
    ...where,
    ...(sequence ? [['Frames', sequenceWords(sequence, frames ?? 0)] as const] : []),
    ...(parts ? [['Parts', partsInWords(parts)] as const] : []),
    ['Size', size(sizeBytes)],
    [
      'Audio',
      !identity
        ? 'not known'
        : identity.audio.length === 0
          ? 'none'
          : identity.audio.map((track, index) => (
              <span key={index} className="block">
                {index + 1}: {audioLabel(track)}
              </span>
            )),
    ],
    [
      'Content',
      <span
        key="hash"
        className="figure break-all text-xs"
        title="SHA-256 over its size, first and last megabyte"
      >
        {contentHash?.slice(0, 16) ?? '–'}
      </span>,
    ],
    ...(indexMs === null ? [] : [['Indexed in', milliseconds(indexMs)] as const]),
  ];
}
