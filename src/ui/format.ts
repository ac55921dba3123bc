import { groupDigits } from '@/core/digits';

export { sizeText as size } from '@/core/digits';

/** Figures as the interface writes them: a number, a narrow space, a unit. */
const gap = '\u202f';

/** A data rate in Mb/s without its unit, for columns whose head names it. */
export function megabits(bitsPerSecond: number | null): string {
  if (bitsPerSecond === null) return '–';
  const value = bitsPerSecond / 1e6;
  return value >= 100 ? value.toFixed(0) : value.toFixed(1);
}

export function megabitsPerSecond(bitsPerSecond: number | null): string {
  return bitsPerSecond === null ? '–' : `${megabits(bitsPerSecond)}${gap}Mb/s`;
}

/** Throughput of storage: MB/s, decimal. */
export function megabytesPerSecond(bytesPerSecond: number | null | undefined): string {
  if (bytesPerSecond === null || bytesPerSecond === undefined || Number.isNaN(bytesPerSecond)) return '–';
  const value = bytesPerSecond / 1e6;
  return `${value >= 100 ? groupDigits(Math.round(value)) : value.toFixed(1)}${gap}MB/s`;
}

export function milliseconds(ms: number | null | undefined): string {
  if (ms === null || ms === undefined || Number.isNaN(ms)) return '–';
  return `${ms >= 100 ? ms.toFixed(0) : ms >= 10 ? ms.toFixed(1) : ms.toFixed(2)}${gap}ms`;
}

/** Memory in binary units. */
export function memory(bytes: number): string {
  const gibi = bytes / 2 ** 30;
  return gibi >= 1 ? `${gibi.toFixed(1)}${gap}GiB` : `${(bytes / 2 ** 20).toFixed(0)}${gap}MiB`;
}

export function percent(share: number | null | undefined, digits = 1): string {
  return share === null || share === undefined || Number.isNaN(share)
    ? '–'
    : `${(share * 100).toFixed(digits)}${gap}%`;
}

export function count(value: number): string {
  return groupDigits(value);
}

/** h:mm:ss, or m:ss below an hour. */
export function clockTime(ms: number): string {
  const seconds = Math.max(0, Math.round(ms / 1000));
  const pad = (value: number) => String(value).padStart(2, '0');
  const [hours, minutes, rest] = [Math.floor(seconds / 3600), Math.floor(seconds / 60) % 60, seconds % 60];
  return hours > 0 ? `${hours}:${pad(minutes)}:${pad(rest)}` : `${minutes}:${pad(rest)}`;
}

/** Date and time of a moment, the same in every place: 2026-11-24 14:05. */
export function dateTime(value: Date | string): string {
  const date = new Date(value);
  const pad = (part: number) => String(part).padStart(2, '0');
  return `${date.getFullYear()}-${pad(date.getMonth() + 1)}-${pad(date.getDate())} ${pad(date.getHours())}:${pad(date.getMinutes())}`;
}

/** A file's name with those that the same content bears elsewhere, so that it is found by any of them. */
export function withOtherNames(name: string, also: readonly string[]): string {
  const shown = also.slice(0, 2);
  return shown.length === 0
    ? name
    : `${name}, also ${shown.join(', ')}${also.length > shown.length ? ` and ${also.length - shown.length} more` : ''}`;
}
