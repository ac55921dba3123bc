import { wordsFor, type About } from '../../failure';
import { coreWords, type CoreCode } from '../../words';

/** What is wrong in a timeline file, and where in it. */
export class OtioError<Code extends CoreCode = CoreCode> extends Error {
  override name = 'OtioError';
  constructor(
    readonly place: string,
    readonly code: Code,
    ...[given]: About<(typeof coreWords)[Code]>
  ) {
    super(`${place}: ${wordsFor(coreWords[code], given)}`);
  }
}

export type Json = Readonly<Record<string, unknown>>;

export interface Time {
  readonly value: number;
  readonly rate: number;
}

export interface Range {
  readonly start: Time;
  readonly duration: Time;
}

/** Of sound the rate of its samples. */
const mostRate = 192_000;
const leastRate = 0.001;
/** Longest time in a file, in its own unit. */
const mostFrames = 1e12;

/** The schema of an object, without its version; '' where it has none. */
export function schemaOf(value: Json): string {
  return typeof value.OTIO_SCHEMA === 'string' ? (value.OTIO_SCHEMA.split('.')[0] ?? '') : '';
}

export function object(value: unknown, place: string): Json {
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    throw new OtioError(place, 'no-object');
  return value as Json;
}

export function list(value: unknown, place: string): readonly unknown[] {
  if (!Array.isArray(value)) throw new OtioError(place, 'list-expected');
  return value;
}

export function time(value: unknown, place: string): Time {
  const { value: amount, rate } = object(value, place);
  if (typeof amount !== 'number' || typeof rate !== 'number' || !(Math.abs(amount) <= mostFrames))
    throw new OtioError(place, 'no-time');
  if (!(rate >= leastRate && rate <= mostRate))
    throw new OtioError(place, 'rate-out-of-range', { most: mostRate });
  return { value: amount, rate };
}

export function range(value: unknown, place: string): Range {
  const { start_time: start, duration } = object(value, place);
  return { start: time(start, `${place}.start_time`), duration: time(duration, `${place}.duration`) };
}

/** A range where there is one. */
export const rangeOr = (value: unknown, place: string): Range | null =>
  value === undefined || value === null ? null : range(value, place);

export const secondsOf = ({ value, rate }: Time): number => value / rate;

export function rescale({ value, rate }: Time, to: number): number {
  return Math.abs(rate - to) < 1e-9 ? value : (value * to) / rate;
}

/** A text from the file; nothing where it is none. */
export function text(value: unknown): string {
  return typeof value === 'string' ? value : '';
}

export function numberOr(value: unknown, otherwise: number): number {
  return typeof value === 'number' && value > 0 ? value : otherwise;
}

/** What this application keeps in an object's metadata. */
export const ownOf = (element: Json, place: string): Json =>
  object(object(element.metadata ?? {}, `${place}.metadata`).navvy ?? {}, `${place}.metadata.navvy`);
