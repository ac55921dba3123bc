'use client';
import { createColumnHelper, type ColumnDef } from '@tanstack/react-table';
import { Play } from 'lucide-react';
import Link from 'next/link';
import { frameStructureLabel } from '@/core/media/frameStructure';
import { rateLabel, toNumber, type Rational } from '@/core/time/rational';
import type { LibraryClip } from '@/server/library';
import { clockTime, count, megabits, size } from '../format';
import { Empty } from '../parts/Empty';
import { MiddleName } from '../parts/MiddleName';
import { Simulated } from '../parts/Simulated';
import { useLive } from '../shell/useLive';
import { DataTable } from '../table/DataTable';

const column = createColumnHelper<LibraryClip>();
const rateOf = ({ format }: LibraryClip) => (format ? format.rate.num / format.rate.den : 0);
const fileName = (path: string) => path.split('/').at(-1) ?? path;
const folderOf = (path: string) => path.split('/').slice(0, -1).join('/');
const durationMs = (clip: LibraryClip) => (clip.format && clip.frames ? (clip.frames * 1000) / rateOf(clip) : null);

/** A frame rate as people say it, with the exact one below where they differ. */
function Rate({ rate }: { rate: Rational }) {
  return <>{Number(toNumber(rate).toFixed(3))}{rate.den !== 1 && <span className="block text-xs text-muted">{rate.num}/{rate.den}</span>}</>;
}

const columns = [
  column.display({
    id: 'play', header: '',
    cell: ({ row: { original } }) => (original.status === 'ready'
      ? <Link prefetch={false} href={`/trials?clip=${original.id}`} className="inline-flex items-center gap-1 whitespace-nowrap border border-edge px-2 py-1 text-xs hover:border-ink"><Play aria-hidden className="size-3" />Try<span className="sr-only"> {original.path}</span></Link>
      : <span className="text-xs text-signal-text">{original.status}</span>),
  }),
  column.accessor('path', { header: 'Clip', cell: ({ row: { original } }) => <><MiddleName name={fileName(original.path)} /><p className="max-w-44 text-xs text-muted" title={`${original.volumeName}: ${original.path}`}>{original.volumeName}{original.simulated && <> <Simulated /></>}</p>{original.problem && <p className="text-xs text-signal-text">{original.problem}</p>}</>, meta: { text: (clip) => clip.path } }),
  column.accessor('volumeName', { header: 'Volume, folder', meta: { text: (clip) => `${clip.volumeName}${clip.simulated ? ' (simulated)' : ''} ${folderOf(clip.path)}` }, cell: ({ row }) => <><MiddleName name={row.original.volumeName} tail={8} /> {folderOf(row.original.path)}</> }),
  column.accessor((clip) => (clip.format ? [clip.format.codec, clip.format.profile].filter(Boolean).join(' ') : '–'), { id: 'codec', header: 'Codec, profile' }),
  column.accessor((clip) => (clip.format ? `${clip.format.bitDepth}-bit ${clip.format.chroma}` : '–'), { id: 'depth', header: 'Depth, chroma', meta: { figures: true } }),
  column.accessor((clip) => (clip.format ? clip.format.width * clip.format.height : 0), { id: 'raster', header: 'Raster', meta: { figures: true, text: (clip) => (clip.format ? `${clip.format.width}x${clip.format.height}` : '') }, cell: ({ row: { original: { format } } }) => (format ? `${format.width}x${format.height}` : '–') }),
  column.accessor(rateOf, { id: 'rate', header: 'Rate /s', meta: { figures: true, text: ({ format }) => (format ? rateLabel(format.rate) : '') }, cell: ({ row: { original: { format } } }) => (format ? <Rate rate={format.rate} /> : '–') }),
  column.accessor((clip) => durationMs(clip) ?? 0, { id: 'duration', header: 'Duration', meta: { figures: true, text: (clip) => (clip.frames === null ? '' : `${clip.frames} frames`) }, cell: ({ row: { original } }) => (durationMs(original) === null ? '–' : <span title={`${count(original.frames ?? 0)} frames`}>{clockTime(durationMs(original) ?? 0)}</span>) }),
  column.accessor((clip) => (clip.structure ? frameStructureLabel(clip.structure) : '–'), { id: 'structure', header: 'Frames depend', cell: ({ getValue }) => <span className="block min-w-28">{getValue()}</span> }),
  column.accessor('frames', { header: 'Frames', meta: { figures: true }, cell: ({ row }) => (row.original.frames === null ? '–' : count(row.original.frames)) }),
  column.accessor('meanBitsPerSecond', { header: 'Mean Mb/s', meta: { figures: true, text: (clip) => megabits(clip.meanBitsPerSecond) }, cell: ({ row }) => megabits(row.original.meanBitsPerSecond) }),
  column.accessor('peakBitsPerSecond', { header: 'Peak Mb/s, 1 s', meta: { figures: true, text: (clip) => megabits(clip.peakBitsPerSecond) }, cell: ({ row }) => megabits(row.original.peakBitsPerSecond) }),
  column.accessor((clip) => clip.startTimecode ?? '–', { id: 'timecode', header: 'Start timecode', meta: { figures: true } }),
  column.accessor((clip) => clip.format?.container ?? '–', { id: 'container', header: 'Container' }),
  column.accessor('sizeBytes', { header: 'Size', meta: { figures: true, text: (clip) => String(clip.sizeBytes) }, cell: ({ row }) => size(row.original.sizeBytes) }),
] as ColumnDef<LibraryClip, never>[];

export function ClipTable({ clips: initial }: { clips: LibraryClip[] }) {
  const [clips] = useLive(initial, '/api/clips', (event) => event.type === 'volume' && event.finished);
  return (
    <DataTable label="Clips" rows={clips} columns={columns} rowId={(clip) => clip.id} initialSort={[{ id: 'path', desc: false }]} hidden={{ timecode: false, sizeBytes: false, container: false, frames: false, duration: false, volumeName: false }} fileName="navvy-clips"
      empty={<Empty title="No clips yet" action={<Link prefetch={false} className="underline" href="/storage">Add a volume</Link>}>Clips appear when a volume is scanned. Each shows what it is: codec, depth, chroma, rate, data rate, and how its frames depend on each other.</Empty>} />
  );
}
