import { fileName } from '@/core/media/fileName';
import { formatDemand } from '@/core/storage/cameraFormats';
import type { Band, Rung } from '@/core/storage/ladder';
import type { LadderPage } from '../pages';
import { formatLabel } from '@/core/media/format';
import { rateLabel } from '@/core/time/rational';
import { ratesOf, type VolumeRates } from './measured';
import type { CameraFormatRow } from '../pages';

export type { LadderPage };

/** A volume's band, with what its rates rest on. */
export interface VolumeBand extends Band {
  readonly from: VolumeRates['from'];
  readonly doubt: VolumeRates['doubt'];
  readonly simulated: boolean;
}

/** Bands of the volumes whose reading is known, and the names of those where it is not. */
export function bandsOf({ volumes, latest }: LadderPage): { bands: VolumeBand[]; unknown: string[] } {
  const bands: VolumeBand[] = [];
  const unknown: string[] = [];
  for (const volume of volumes) {
    const rates = ratesOf(volume, latest, 'sequential-read');
    if (!rates) unknown.push(volume.name);
    else
      bands.push({
        id: volume.id,
        name: volume.name,
        p5: rates.p5,
        p95: rates.p95,
        sustained: rates.sustained,
        from: rates.from,
        doubt: rates.doubt,
        simulated: volume.standIn !== null,
      });
  }
  return { bands, unknown };
}

/** Clips as rungs: the same content on several volumes stands once. */
export function clipRungs({ clips }: LadderPage): Rung[] {
  const seen = new Set<string>();
  return clips.flatMap((clip) => {
    const key = clip.contentHash ?? clip.id;
    if (!clip.format || clip.meanBitsPerSecond === null || clip.peakBitsPerSecond === null || seen.has(key))
      return [];
    seen.add(key);
    return [
      {
        id: clip.id,
        name: fileName(clip.path),
        detail: `${formatLabel(clip.format)}, ${rateLabel(clip.format.rate)} per second`,
        demand: { meanBitsPerSecond: clip.meanBitsPerSecond, peakBitsPerSecond: clip.peakBitsPerSecond },
      },
    ];
  });
}

/** Camera formats as rungs. */
export function formatRungs(formats: readonly CameraFormatRow[]): Rung[] {
  return formats.map((format) => ({
    id: format.id,
    name: format.name,
    detail: [format.codecClass, format.raster, `${format.framesPerSecond} per second`]
      .filter(Boolean)
      .join(', '),
    demand: formatDemand(format),
  }));
}
