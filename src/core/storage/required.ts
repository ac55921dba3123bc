/** What a format asks of a volume: rates of one stream at normal speed, bits per second. */
export interface FormatDemand {
  readonly meanBitsPerSecond: number;
  /** The largest one-second window: what the volume must deliver without a pause. */
  readonly peakBitsPerSecond: number;
}

/** How a format is used. */
export interface Usage {
  readonly streams: number;
  /** Shuttle speed; 1 plays. */
  readonly speed: number;
  /** Margin kept free, as a share of the peak: 0.25 asks for a quarter more. */
  readonly margin: number;
}

/** Rates in bytes per second. */
export interface RequiredRate {
  readonly mean: number;
  readonly peak: number;
  /** Peak with the margin on top. */
  readonly required: number;
}

/** Required rate: the peak over one second, times streams, times speed, plus the margin. */
export function requiredRate(
  { meanBitsPerSecond, peakBitsPerSecond }: FormatDemand,
  { streams, speed, margin }: Usage,
): RequiredRate {
  const factor = (streams * Math.abs(speed)) / 8;
  const peak = peakBitsPerSecond * factor;
  return { mean: meanBitsPerSecond * factor, peak, required: peak * (1 + margin) };
}

/** Capacity divided by demand, minus one. */
export function headroom(capacity: number, demand: number): number {
  return capacity / demand - 1;
}

/** Streams that a rate carries by arithmetic: whole streams of peak and margin. */
export function streamsByArithmetic(
  bytesPerSecond: number,
  demand: FormatDemand,
  usage: Omit<Usage, 'streams'>,
): number {
  return Math.floor(bytesPerSecond / requiredRate(demand, { ...usage, streams: 1 }).required + 1e-9);
}

export const fits = ['plays', 'without margin', 'too slow'] as const;
export type Fit = (typeof fits)[number];

/** Whether a usage stands below a band's foot: with its margin, without it, or not. */
export function fitOf(sustainedBytesPerSecond: number, { peak, required }: RequiredRate): Fit {
  return required <= sustainedBytesPerSecond
    ? 'plays'
    : peak <= sustainedBytesPerSecond
      ? 'without margin'
      : 'too slow';
}
