/** A general camera format, as the ladder and the planner use it. Bytes per frame and rate are all it needs. */
export interface CameraFormat {
  readonly name: string;
  /** "3840x2160"; may be empty. */
  readonly raster: string;
  readonly framesPerSecond: number;
  /** "All-intra 10-bit 4:2:2"; may be empty. */
  readonly codecClass: string;
  readonly bytesPerFrame: number;
  /** Largest one-second window over the mean, 1 or more. */
  readonly peakOverMean: number;
}

/** Rates of a format, bits per second. */
export function formatDemand({
  bytesPerFrame,
  framesPerSecond,
  peakOverMean,
}: Pick<CameraFormat, 'bytesPerFrame' | 'framesPerSecond' | 'peakOverMean'>) {
  const meanBitsPerSecond = bytesPerFrame * 8 * framesPerSecond;
  return { meanBitsPerSecond, peakBitsPerSecond: meanBitsPerSecond * peakOverMean };
}

/** Bytes per frame of a format whose data rate is known. @param megabits Mb/s */
export function bytesPerFrame(megabits: number, framesPerSecond: number): number {
  return Math.round((megabits * 1e6) / 8 / framesPerSecond);
}

const format = (
  name: string,
  raster: string,
  framesPerSecond: number,
  codecClass: string,
  megabits: number,
  peakOverMean = 1,
): CameraFormat => ({
  name,
  raster,
  framesPerSecond,
  codecClass,
  bytesPerFrame: bytesPerFrame(megabits, framesPerSecond),
  peakOverMean,
});

/** What the table begins with: classes of formats that cameras commonly write, with round rates. */
export const generalFormats: readonly CameraFormat[] = [
  format('HD long-GOP', '1920x1080', 25, 'Long-GOP 8-bit 4:2:0', 28, 1.3),
  format('HD broadcast', '1920x1080', 25, 'Long-GOP 8-bit 4:2:2', 50, 1.1),
  format('HD all-intra', '1920x1080', 25, 'All-intra 10-bit 4:2:2', 112),
  format('HD mezzanine', '1920x1080', 25, 'Intra mezzanine 10-bit 4:2:2', 184, 1.05),
  format('UHD long-GOP', '3840x2160', 25, 'Long-GOP 10-bit 4:2:0', 100, 1.3),
  format('UHD long-GOP, 50 per second', '3840x2160', 50, 'Long-GOP 10-bit 4:2:2', 200, 1.3),
  format('UHD all-intra', '3840x2160', 25, 'All-intra 10-bit 4:2:2', 250),
  format('UHD all-intra, 50 per second', '3840x2160', 50, 'All-intra 10-bit 4:2:2', 500),
  format('UHD mezzanine', '3840x2160', 25, 'Intra mezzanine 10-bit 4:2:2', 737, 1.05),
  format('UHD mezzanine 4:4:4', '3840x2160', 25, 'Intra mezzanine 12-bit 4:4:4', 1_100, 1.05),
  format('4K light raw', '4096x2160', 24, 'Compressed raw 12-bit', 1_000, 1.1),
  format('6K light raw', '6144x3240', 24, 'Compressed raw 12-bit', 1_600, 1.1),
  format('8K light raw', '8192x4320', 24, 'Compressed raw 12-bit', 2_900, 1.1),
  format('HD proxy', '1920x1080', 25, 'Proxy, intra 8-bit', 45, 1.05),
  format('UHD uncompressed', '3840x2160', 25, 'Uncompressed 10-bit 4:2:2', (3840 * 2160 * 20 * 25) / 1e6),
];
