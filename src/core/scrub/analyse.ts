import { partitionPoint } from '../stats/partitionPoint';
import { quantiles } from '../stats/quantiles';

/** Where a request went; refused: the decoder makes no picture of it. */
export type RequestEnd = 'shown' | 'superseded' | 'refused';

/** One request of a scrub trial. Times in ms from the gesture's start; NaN (null in JSON) where it never came there. */
export interface ScrubRequest {
  readonly atMs: number;
  readonly target: number;
  readonly end: RequestEnd;
  /** The stage at whose boundary it was given up. */
  readonly stoppedAfter: 'waiting' | 'read' | 'decode' | 'process' | null;
  readonly shownMs: number | null;
  readonly readMs: number;
  readonly decodeMs: number;
  readonly processMs: number;
  readonly bytes: number;
  readonly packets: number;
  readonly fromKey: number;
  /** Frame of the media that was due and the one that its picture proved; null where pictures carry no number. */
  readonly wanted: number;
  readonly proved: number | null;
  /** The picture is concealed by the decoder, or built on a frame that is missing. */
  readonly doubtful?: boolean;
}

/** The figures of a scrub trial. Latency is from request to picture, of requests that were shown. */
export interface ScrubSummary {
  readonly requests: number;
  readonly shown: number;
  readonly superseded: number;
  /** Positions of which the decoder makes no picture; absent in trials from before they were counted. */
  readonly refused?: number;
  /** Shown pictures that are concealed, or built on a frame that is missing, and those of them that are provably another frame; absent in trials from before. */
  readonly doubtful?: number;
  readonly doubtfulWrong?: number;
  readonly wrong: number;
  /** Whether pictures proved their frame. */
  readonly proved: boolean;
  readonly latencyMs: { readonly p50: number; readonly p95: number; readonly max: number } | null;
  /** Median parts of the latency. */
  readonly partsMs: {
    readonly waiting: number;
    readonly read: number;
    readonly decode: number;
    readonly process: number;
  } | null;
  /** Slots between playhead and picture over the gesture's time: mean and most. */
  readonly lagSlots: { readonly mean: number; readonly most: number };
  readonly seconds: number;
}

/** Times and positions of the playhead and of the picture: steps, each holding until the next. */
export interface LagLine {
  readonly timesMs: readonly number[];
  readonly slots: readonly number[];
}

export function playheadLine(requests: readonly ScrubRequest[]): LagLine {
  return { timesMs: requests.map(({ atMs }) => atMs), slots: requests.map(({ target }) => target) };
}

export function pictureLine(requests: readonly ScrubRequest[]): LagLine {
  const shown = requests
    .filter((request): request is ScrubRequest & { shownMs: number } => request.shownMs !== null)
    .sort((a, b) => a.shownMs - b.shownMs);
  return { timesMs: shown.map(({ shownMs }) => shownMs), slots: shown.map(({ target }) => target) };
}

/** Computes a scrub trial's figures. */
export function summariseScrub(requests: readonly ScrubRequest[]): ScrubSummary {
  const shown = requests.filter(
    (request): request is ScrubRequest & { shownMs: number } =>
      request.end === 'shown' && request.shownMs !== null,
  );
  const wrong = shown.filter(({ proved, wanted }) => proved !== null && proved !== wanted);
  const latencies = shown.map(({ atMs, shownMs }) => shownMs - atMs);
  const [p50, p95, max] = quantiles(latencies, [0.5, 0.95, 1]) as [number, number, number];
  const median = (values: number[]) => quantiles(values, [0.5])[0] as number;
  const last = shown.reduce((latest, { shownMs }) => Math.max(latest, shownMs), requests.at(-1)?.atMs ?? 0);
  return {
    requests: requests.length,
    shown: shown.length,
    superseded: requests.filter(({ end }) => end === 'superseded').length,
    refused: requests.filter(({ end }) => end === 'refused').length,
    doubtful: shown.filter(({ doubtful }) => doubtful).length,
    doubtfulWrong: wrong.filter(({ doubtful }) => doubtful).length,
    wrong: wrong.length,
    proved: shown.some(({ proved }) => proved !== null),
    latencyMs: latencies.length > 0 ? { p50, p95, max } : null,
    partsMs:
      shown.length > 0
        ? {
            waiting: median(
              shown.map(({ atMs, shownMs, readMs, decodeMs, processMs }) =>
                Math.max(0, shownMs - atMs - readMs - decodeMs - processMs),
              ),
            ),
            read: median(shown.map(({ readMs }) => readMs)),
            decode: median(shown.map(({ decodeMs }) => decodeMs)),
            process: median(shown.map(({ processMs }) => processMs)),
          }
        : null,
    lagSlots: lagBetween(playheadLine(requests), pictureLine(requests), last),
    seconds: last / 1000,
  };
}

/** Mean (over time) and greatest distance between two stepped lines, from the first picture on. */
function lagBetween(playhead: LagLine, picture: LagLine, endMs: number): { mean: number; most: number } {
  const times = [...new Set([...playhead.timesMs, ...picture.timesMs])]
    .filter((time) => time >= (picture.timesMs[0] ?? Infinity) && time <= endMs)
    .sort((a, b) => a - b);
  let area = 0;
  let most = 0;
  let total = 0;
  times.forEach((time, at) => {
    const lag = Math.abs(valueAt(playhead, time) - valueAt(picture, time));
    const until = times[at + 1] ?? endMs;
    most = Math.max(most, until > time || at === times.length - 1 ? lag : 0);
    area += lag * (until - time);
    total += until - time;
  });
  return { mean: total > 0 ? area / total : 0, most };
}

/** Value of a stepped line at a time. */
export function valueAt({ timesMs, slots }: LagLine, timeMs: number): number {
  const passed = partitionPoint(timesMs.length, (at) => (timesMs[at] as number) <= timeMs);
  return slots[Math.max(0, passed - 1)] ?? 0;
}
