/**
 * Figures, times and dates as people read them, in the interface, in sentences and in messages: a number, a narrow space, a unit.
 * Everything that is written for people comes from here; what machines read (CSV, open formats) does not.
 */
const gap = '\u202f';
/** Parts thousands. */
const thin = '\u2009';
/** What stands where there is no figure. */
export const none = '–';
const locale = 'en';

type Missing = null | undefined;
const isMissing = (value: number | Missing): value is Missing =>
  value === null || value === undefined || Number.isNaN(value);

const formatters = new Map<string, Intl.NumberFormat>();
/** A formatter of one kind is made once: making it takes longer than a thousand uses. */
function formatter(kind: string, options: Intl.NumberFormatOptions): Intl.NumberFormat {
  let known = formatters.get(kind);
  if (!known) {
    known = new Intl.NumberFormat(locale, { useGrouping: false, signDisplay: 'negative', ...options });
    formatters.set(kind, known);
  }
  return known;
}

/** With so many digits behind the point: 12.50. */
export const fixed = (value: number, digits: number): string =>
  formatter(`fixed ${digits}`, { minimumFractionDigits: digits, maximumFractionDigits: digits }).format(
    value,
  );

/** With at most so many digits behind the point: 12.5. */
export const upTo = (value: number, digits: number): string =>
  formatter(`up to ${digits}`, { maximumFractionDigits: digits }).format(value);

/** With at most so many digits in all: 0.0125, 12.5. */
export const significant = (value: number, digits: number): string =>
  formatter(`significant ${digits}`, { maximumSignificantDigits: digits }).format(value);

/** Digits behind the point that leave three figures, at most so many: a figure that rounds up to the next place counts as that. */
const threeFigures = (value: number, most: number): number =>
  Math.min(most, Math.abs(value) >= 99.95 ? 0 : Math.abs(value) >= 9.995 ? 1 : 2);

/** With a digit behind the point below 100: 12.5, 125. */
export const rounded = (value: number): string => fixed(value, threeFigures(value, 1));

/** Whole, its thousands parted: 1 200. */
export const count = (value: number): string =>
  formatter('count', { maximumFractionDigits: 0, useGrouping: true }).format(value).replaceAll(',', thin);

/** What money is counted in until somebody chooses otherwise (ISO 4217). */
export const usualCurrency = 'EUR';

/** A sum of money, whole where it is. @param currency as its code is written (ISO 4217) */
export const money = (value: number, currency: string): string =>
  `${Number.isInteger(value) || Math.abs(value) >= 1_000 ? count(value) : fixed(value, 2)}${gap}${currency}`;

/**
 * A figure with its unit.
 * @param value a number, or the text of a figure or of a span of figures
 * @param digits behind the point; without it as many as the number has, at most three
 */
export function quantity(value: number | string, unit: string, digits?: number): string {
  const figure =
    typeof value === 'string' ? value : digits === undefined ? upTo(value, 3) : fixed(value, digits);
  return `${figure}${gap}${unit}`;
}

/** A size in the unit in which it is less than a thousand, as it is written. @param digits of each unit */
function scaled(
  value: number,
  base: number,
  units: readonly (readonly [unit: string, digits: number])[],
): string {
  let rest = value;
  for (const [unit, digits] of units) {
    if (Number(fixed(rest, digits)) < base || unit === units.at(-1)?.[0]) return quantity(rest, unit, digits);
    rest /= base;
  }
  return none;
}

/** Decimal sizes: 12 kB, 1.5 GB. */
export const size = (bytes: number): string =>
  scaled(bytes, 1_000, [
    ['B', 0],
    ['kB', 0],
    ['MB', 1],
    ['GB', 1],
    ['TB', 1],
  ]);

/** Memory in binary units: 512 MiB, 24.0 GiB. */
export const memory = (bytes: number): string =>
  scaled(bytes / 2 ** 20, 1_024, [
    ['MiB', 0],
    ['GiB', 1],
  ]);

/** A data rate in Mb/s without its unit, for columns whose head names it. */
export const megabits = (bitsPerSecond: number | Missing): string =>
  isMissing(bitsPerSecond) ? none : rounded(bitsPerSecond / 1e6);

/** A data rate: 185 Mb/s, 14.7 Mb/s. */
export const megabitsPerSecond = (bitsPerSecond: number | Missing): string =>
  isMissing(bitsPerSecond) ? none : quantity(megabits(bitsPerSecond), 'Mb/s');

/** Throughput of storage, decimal: 1 240 MB/s, 96.5 MB/s. @param digits below 100 MB/s */
export function megabytesPerSecond(bytesPerSecond: number | Missing, digits = 1): string {
  if (isMissing(bytesPerSecond)) return none;
  const value = bytesPerSecond / 1e6;
  const behind = threeFigures(value, digits);
  return quantity(behind === 0 ? count(value) : fixed(value, behind), 'MB/s');
}

/** A short time: 0.12 ms, 12.3 ms, 123 ms. */
export const milliseconds = (ms: number | Missing): string =>
  isMissing(ms) ? none : quantity(ms, 'ms', threeFigures(ms, 2));

/** A share of a whole: 2.1 %. */
export const percent = (share: number | Missing, digits = 1): string =>
  isMissing(share) ? none : quantity(share * 100, '%', digits);

/** How many times as much: 1.25x. */
export const times = (factor: number, digits = 2): string => `${fixed(factor, digits)}x`;

const two = (value: number) => String(value).padStart(2, '0');
const clockParts = (seconds: number) =>
  [Math.floor(seconds / 3_600), Math.floor(seconds / 60) % 60, seconds % 60] as const;

/** A time as people say it: "850 ms", "12.4 s", "3:05 min", "1:02:03 h". */
export function duration(ms: number): string {
  if (ms < 999.5) return quantity(ms, 'ms', 0);
  if (ms < 59_950) return quantity(ms / 1_000, 's', 1);
  const [hours, minutes, rest] = clockParts(Math.round(ms / 1_000));
  return hours > 0
    ? quantity(`${hours}:${two(minutes)}:${two(rest)}`, 'h')
    : quantity(`${minutes}:${two(rest)}`, 'min');
}

/** h:mm:ss, or m:ss below an hour. */
export function clockTime(ms: number): string {
  const [hours, minutes, rest] = clockParts(Math.max(0, Math.round(ms / 1_000)));
  return hours > 0 ? `${hours}:${two(minutes)}:${two(rest)}` : `${minutes}:${two(rest)}`;
}

const moment = new Intl.DateTimeFormat(locale, {
  year: 'numeric',
  month: '2-digit',
  day: '2-digit',
  hour: '2-digit',
  minute: '2-digit',
  hourCycle: 'h23',
});

/** Date and time of a moment where it is read: 2026-11-24 14:05. */
export function dateTime(value: Date | string): string {
  const time = new Date(value);
  if (Number.isNaN(time.getTime())) return none;
  const parts = Object.fromEntries(moment.formatToParts(time).map((part) => [part.type, part.value]));
  return `${parts.year}-${parts.month}-${parts.day} ${parts.hour}:${parts.minute}`;
}
