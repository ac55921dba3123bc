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
