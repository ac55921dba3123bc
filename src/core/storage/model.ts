import { arrayShape, streamsRate, type ArrayLayout, type Drive } from './array';
import { depthLimitedRate, lineRate, type Link } from './link';

/** Something that goes wrong at a known moment of a run. Times in seconds from the first request. */
export type ScriptedFault =
  | { readonly kind: 'drop-out'; readonly atSeconds: number; readonly seconds: number }
  /** One drive falls to a share of its rate. */
  | { readonly kind: 'slow-drive'; readonly atSeconds: number; readonly share: number }
  /** The link is renegotiated to a lower line rate. */
  | { readonly kind: 'lower-link'; readonly atSeconds: number; readonly lineBitsPerSecond: number }
  | { readonly kind: 'read-error'; readonly atSeconds: number }
  | { readonly kind: 'full'; readonly afterBytes: number }
  | { readonly kind: 'read-only' };

/** A volume behind a link: what a stand-in is paced by and a forecast rests on. */
export interface StorageModel extends ArrayLayout {
  readonly link: Link;
  readonly drive: Drive;
  /** Memory of the server: the first `bytes` come from it when they are read again. */
  readonly cache: { readonly bytes: number; readonly bytesPerSecond: number };
  /** Mean of an exponentially distributed delay added to each answer. */
  readonly jitterUs: number;
  /** What other clients take of the link on average. */
  readonly othersBytesPerSecond: number;
  readonly fault: ScriptedFault | null;
  readonly seed: number;
}

/** Parts of a volume that can hold its rate down. */
export type LimitingPart = 'link' | 'requests under way' | 'drives' | 'other clients';

/** A rate with the part that sets it. */
export interface ExpectedRate {
  readonly bytesPerSecond: number;
  readonly limit: LimitingPart;
}

/**
 * The rate that a model gives to one client that reads or writes on and on.
 * @param blockBytes size of the client's requests
 * @param sustained false counts a write into the drives' burst cache
 * @param streams files that it reads or writes side by side; the rate is that of all together
 */
export function expectedRate(
  model: StorageModel,
  write: boolean,
  blockBytes: number,
  sustained = true,
  streams = 1,
): ExpectedRate {
  const line = lineRate(model.link);
  const left = leftByOthers(line, model.othersBytesPerSecond);
  const alone = streamsRate(model, model.drive, write, streams, blockBytes);
  const drives = write ? writeRate(model, alone, !sustained) : alone;
  const parts: [LimitingPart, number][] = [
    ['drives', drives],
    ['requests under way', depthLimitedRate(model.link, blockBytes)],
    [left < line ? 'other clients' : 'link', left],
  ];
  const [limit, bytesPerSecond] = parts.reduce((lowest, part) => (part[1] < lowest[1] ? part : lowest));
  return { bytesPerSecond, limit };
}

/**
 * The most streams that a rate carries, where the rate depends on their number.
 * @param rateOf bytes per second that so many streams get all together @param one bytes per second that one needs
 */
export function carriedStreams(rateOf: (streams: number) => number, one: number): number {
  if (!(one > 0)) return 0;
  let [carried, most] = [0, 0];
  for (let streams = 1; streams <= mostCounted; streams++) {
    const rate = rateOf(streams) * (1 + 1e-9);
    most = Math.max(most, rate);
    if (streams * one <= rate) carried = streams;
    else if (streams > mostCopies && streams * one > most) break;
  }
  return carried;
}

/** Copies of one layout's data at the most: with more streams than these no number of them gets more. */
const mostCopies = 64;
const mostCounted = 100_000;

const leastShareLeft = 0.05;

/** What other clients leave of a rate: at least a twentieth, because a link shares. */
export function leftByOthers(bytesPerSecond: number, othersBytesPerSecond: number): number {
  return Math.max(bytesPerSecond * leastShareLeft, bytesPerSecond - othersBytesPerSecond);
}

/** Write rate of an array, within or beyond its drives' burst caches. */
export function writeRate(model: StorageModel, sustainedBytesPerSecond: number, inBurst: boolean): number {
  const { burst } = model.drive;
  return burst && inBurst
    ? Math.max(sustainedBytesPerSecond, burst.bytesPerSecond * arrayShape(model).width)
    : sustainedBytesPerSecond;
}

/** Bytes that the burst caches of an array take together; 0 without any. */
export function burstBytes(model: StorageModel): number {
  return (model.drive.burst?.bytes ?? 0) * arrayShape(model).width;
}
