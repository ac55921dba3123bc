'use client';
import { milliseconds } from '@/core/format';
import { addressOf } from '../api';
import type { ClipPage } from '../pages';

/** Thumbnails and audio peaks over the clip's duration, and what making them cost. */
export function PreviewStrip({
  clipId,
  preview,
  stamp,
}: {
  clipId: string;
  preview: ClipPage['preview'];
  stamp: string;
}) {
  if (!preview)
    return (
      <p role="status" className="border border-dashed border-edge p-4 text-sm text-muted">
        Thumbnails and audio peaks are made in the background, between trials.
      </p>
    );
  if (!preview.hasStrip) return <p className="text-sm text-muted">No thumbnails: {preview.problem}</p>;
  return (
    <figure aria-label="Thumbnails">
      <img
        src={addressOf('GET /api/clips/{id}/strip', {
          ids: { id: clipId },
          query: { of: stamp.slice(0, 12) },
        })}
        width={preview.tiles * preview.tileWidth}
        height={preview.tileHeight}
        alt={`${preview.tiles} pictures over the clip`}
        className="block h-auto w-full border"
      />
      {preview.peaks && <Peaks peaks={preview.peaks} />}
      <figcaption className="mt-1 text-xs text-muted">
        Import cost: pictures and fingerprint {milliseconds(preview.stripMs)}
        {preview.peaks ? `, audio peaks ${milliseconds(preview.audioMs)}` : ', no audio'}
      </figcaption>
    </figure>
  );
}

function Peaks({ peaks }: { peaks: readonly number[] }) {
  const path = peaks.map((peak, index) => `M${index} ${32 - peak / 8}V${32 + peak / 8}`).join('');
  return (
    <svg
      role="img"
      aria-label="Peaks of the first audio track"
      viewBox={`0 0 ${peaks.length} 64`}
      preserveAspectRatio="none"
      className="block h-12 w-full border border-t-0 bg-surface"
    >
      <path d={`M0 32H${peaks.length}`} stroke="var(--line)" vectorEffect="non-scaling-stroke" />
      <path d={path} stroke="var(--slot)" strokeWidth="1.2" fill="none" />
    </svg>
  );
}
