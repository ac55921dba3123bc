'use client';
import { clockTime, count, megabits, quantity, size, upTo } from '@/core/format';
import { fileName } from '@/core/media/fileName';
import type { Format } from '@/core/media/format';
import { clsx } from 'clsx';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import { Play } from 'lucide-react';
import Link from 'next/link';
import { frameStructureLabel, frameStructureShort } from '@/core/media/frameStructure';
import { rateLabel, toNumber, type Rational } from '@/core/time/rational';
import { plainName } from '@/core/simulated';
import type { LibraryClip } from '@/server/library/clipList';
import { MiddleName } from '../parts/MiddleName';
import { Simulated } from '../parts/Simulated';

/** A file of the library, with those that are folded under it where it stands for its footage. */
export type ClipLine = LibraryClip & { readonly others?: readonly LibraryClip[] };

const column = createColumnHelper<ClipLine>();
const rateOf = ({ format }: LibraryClip) => (format ? format.rate.num / format.rate.den : 0);
const codecOf = ({ codec, profile }: Format) => [codec, profile].filter(Boolean).join(' ');
const depthOf = ({ bitDepth, chroma }: Format) => `${bitDepth}-bit ${chroma}`;
const rasterOf = ({ width, height }: Format) => `${width}x${height}`;
const folderOf = (path: string) => path.split('/').slice(0, -1).join('/');
const durationMs = (clip: LibraryClip) =>
  clip.format && clip.frames ? (clip.frames * 1000) / rateOf(clip) : null;
const yesNo = (value: boolean | null) => (value === null ? '–' : value ? 'yes' : 'no');

/** A frame rate as people say it, with the exact one below where they differ. */
function Rate({ rate, constant }: { rate: Rational; constant: boolean | null }) {
  return (
    <>
      {upTo(toNumber(rate), 3)}
      {rate.den !== 1 && (
        <span className="block text-xs text-muted">
          {constant === false ? 'on average' : `${rate.num}/${rate.den}`}
        </span>
      )}
    </>
  );
}

/** What stands in the way of a clip, or what to know before playing it. */
function Notes({ clip: { problem, status, warnings } }: { clip: LibraryClip }) {
  if (status === 'missing') return <span className="text-xs text-signal-text">missing</span>;
  const words = problem ?? warnings.join(', ');
  return (
    <span
      className={clsx('line-clamp-2 min-w-24 text-xs', problem ? 'text-signal-text' : 'text-muted')}
      title={words}
    >
      {words}
    </span>
  );
}

/** Where else footage is, in a few words: "+3 places, 2 renditions". */
function elsewhere({ role, contentHash, others = [], renditions }: ClipLine): string {
  if (others.length === 0) return renditions > 1 && role !== 'original' ? role : '';
  const same = others.filter((other) => other.contentHash !== null && other.contentHash === contentHash);
  const places = same.length;
  const made = new Set(
    others.filter((other) => !same.includes(other)).map((other) => other.contentHash ?? other.id),
  ).size;
  return [
    places > 0 && `+${count(places)} ${places === 1 ? 'place' : 'places'}`,
    made > 0 && `${count(made)} ${made === 1 ? 'rendition' : 'renditions'}`,
  ]
    .filter(Boolean)
    .join(', ');
}

export const clipColumns = [
  column.display({
    id: 'play',
    header: '',
    cell: ({ row: { original } }) =>
      original.status === 'ready' ? (
        <Link
          prefetch={false}
          href={`/trials?clip=${original.id}`}
          title="Play and measure"
          className="inline-flex size-7 items-center justify-center border border-edge hover:border-ink"
        >
          <Play aria-hidden className="size-3" />
          <span className="sr-only">Play {original.path}</span>
        </Link>
      ) : (
        <span className="text-xs text-signal-text">{original.status}</span>
      ),
  }),
  column.accessor('path', {
    header: 'Clip',
    meta: { text: (clip) => clip.path, rowName: true },
    cell: ({ row: { original } }) => (
      <Link prefetch={false} href={`/media/clips/${original.id}`} className="block min-w-36 max-w-60">
        <span className="underline decoration-edge underline-offset-4">
          <MiddleName name={fileName(original.path)} />
        </span>
        <span
          className="flex max-w-60 items-baseline gap-1.5 text-xs text-muted"
          title={`${original.volumeName}: ${original.path}`}
        >
          <MiddleName name={original.volumeName} tail={8} />
          {original.simulated && <Simulated />}
          <span className="whitespace-nowrap">{elsewhere(original)}</span>
        </span>
      </Link>
    ),
  }),
  column.accessor((clip) => clip.footageName ?? '–', {
    id: 'footage',
    header: 'Footage',
    cell: ({ row: { original } }) => (
      <>
        {original.footageName ?? '–'}
        {original.renditions > 1 && (
          <span className="block text-xs text-muted">
            {original.role} of {original.renditions}
          </span>
        )}
      </>
    ),
    meta: { text: (clip) => `${clip.footageName ?? ''} ${clip.role}` },
  }),
  column.accessor('volumeName', {
    header: 'Volume, folder',
    meta: { text: (clip) => `${plainName(clip.volumeName, clip.simulated)} ${folderOf(clip.path)}` },
    cell: ({ row }) => (
      <>
        <MiddleName name={row.original.volumeName} tail={8} /> {folderOf(row.original.path)}
      </>
    ),
  }),
  column.accessor((clip) => (clip.format ? codecOf(clip.format) : '–'), {
    id: 'codec',
    header: 'Codec, depth',
    meta: { text: ({ format }) => (format ? `${codecOf(format)} ${depthOf(format)}` : '') },
    cell: ({
      getValue,
      row: {
        original: { format },
      },
    }) => (
      <span className="block max-w-44 truncate" title={getValue()}>
        {getValue()}
        <span className="block text-xs text-muted">{format && depthOf(format)}</span>
      </span>
    ),
  }),
  column.accessor((clip) => (clip.format ? depthOf(clip.format) : '–'), {
    id: 'depth',
    header: 'Depth, chroma',
    meta: { figures: true },
  }),
  column.accessor((clip) => (clip.format ? clip.format.width * clip.format.height : 0), {
    id: 'raster',
    header: 'Raster, rate',
    meta: {
      figures: true,
      text: ({ format }) => (format ? `${rasterOf(format)} ${rateLabel(format.rate)}` : ''),
    },
    cell: ({
      row: {
        original: { format, constantRate },
      },
    }) =>
      format ? (
        <>
          {rasterOf(format)}
          <span className="block text-xs text-muted">
            {quantity(upTo(toNumber(format.rate), 3), '/s')}
            {constantRate === false && ' on average'}
          </span>
        </>
      ) : (
        '–'
      ),
  }),
  column.accessor(rateOf, {
    id: 'rate',
    header: 'Rate /s',
    meta: { figures: true, text: ({ format }) => (format ? rateLabel(format.rate) : '') },
    cell: ({
      row: {
        original: { format, constantRate },
      },
    }) => (format ? <Rate rate={format.rate} constant={constantRate} /> : '–'),
  }),
  column.accessor((clip) => durationMs(clip) ?? 0, {
    id: 'duration',
    header: 'Duration',
    meta: { figures: true, text: (clip) => (clip.frames === null ? '' : `${clip.frames} frames`) },
    cell: ({ row: { original } }) =>
      durationMs(original) === null ? (
        '–'
      ) : (
        <span title={`${count(original.frames ?? 0)} frames`}>{clockTime(durationMs(original) ?? 0)}</span>
      ),
  }),
  column.accessor((clip) => (clip.structure ? frameStructureLabel(clip.structure) : '–'), {
    id: 'structure',
    header: 'Frames',
    cell: ({
      getValue,
      row: {
        original: { structure },
      },
    }) => (
      <span className="whitespace-nowrap" title={getValue()}>
        {structure ? frameStructureShort(structure) : '–'}
      </span>
    ),
  }),
  column.accessor('frames', {
    header: 'Length, frames',
    meta: { figures: true },
    cell: ({ row }) => (row.original.frames === null ? '–' : count(row.original.frames)),
  }),
  column.accessor('meanBitsPerSecond', {
    header: 'Mean Mb/s',
    meta: { figures: true, text: (clip) => megabits(clip.meanBitsPerSecond) },
    cell: ({ row }) => megabits(row.original.meanBitsPerSecond),
  }),
  column.accessor('peakBitsPerSecond', {
    header: 'Peak Mb/s, 1 s',
    meta: { figures: true, text: (clip) => megabits(clip.peakBitsPerSecond) },
    cell: ({ row }) => megabits(row.original.peakBitsPerSecond),
  }),
  column.accessor((clip) => clip.startTimecode ?? '–', {
    id: 'timecode',
    header: 'Start timecode',
    meta: { figures: true },
  }),
  column.accessor((clip) => clip.scan ?? '–', { id: 'scan', header: 'Scan' }),
  column.accessor((clip) => clip.transfer ?? '–', { id: 'transfer', header: 'Transfer' }),
  column.accessor('audioTracks', {
    header: 'Audio tracks',
    meta: { figures: true },
    cell: ({ getValue }) => getValue() ?? '–',
  }),
  column.accessor((clip) => yesNo(clip.alpha), { id: 'alpha', header: 'Alpha' }),
  column.accessor((clip) => clip.format?.container ?? '–', { id: 'container', header: 'Container' }),
  column.accessor('sizeBytes', {
    header: 'Size',
    meta: { figures: true, text: (clip) => String(clip.sizeBytes) },
    cell: ({ row }) => size(row.original.sizeBytes),
  }),
  column.accessor((clip) => clip.problem ?? clip.warnings.join(', '), {
    id: 'notes',
    header: 'Notes',
    cell: ({ row }) => <Notes clip={row.original} />,
  }),
] as ColumnDef<ClipLine, never>[];

/** Columns that are there when asked for. */
export const hiddenColumns = {
  depth: false,
  rate: false,
  timecode: false,
  sizeBytes: false,
  container: false,
  frames: false,
  volumeName: false,
  scan: false,
  transfer: false,
  audioTracks: false,
  alpha: false,
  footage: false,
};
