/** Groups digits by threes with a thin space: 1 200. */
export function groupDigits(value: number): string {
  return String(Math.round(value)).replace(/\B(?=(\d{3})+(?!\d))/g, '\u2009');
}

/** Decimal sizes with a narrow space before the unit: MB, GB, TB. */
export function sizeText(bytes: number): string {
  const units = ['B', 'kB', 'MB', 'GB', 'TB'];
  const power = bytes < 1 ? 0 : Math.min(units.length - 1, Math.floor(Math.log10(bytes) / 3));
  return `${(bytes / 1000 ** power).toFixed(power < 2 ? 0 : 1)}\u202f${units[power]}`;
}

/** A time as people say it: "850 ms", "12.4 s", "3:05 min", "1:02:03 h". */
export function durationText(ms: number): string {
  if (ms < 1_000) return `${Math.round(ms)}\u202fms`;
  const seconds = ms / 1_000;
  if (seconds < 60) return `${seconds.toFixed(1)}\u202fs`;
  const whole = Math.round(seconds);
  const two = (value: number) => String(value).padStart(2, '0');
  const [hours, minutes, rest] = [Math.floor(whole / 3_600), Math.floor(whole / 60) % 60, whole % 60];
  return hours > 0 ? `${hours}:${two(minutes)}:${two(rest)}\u202fh` : `${minutes}:${two(rest)}\u202fmin`;
}
