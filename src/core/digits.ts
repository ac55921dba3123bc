/** Groups digits by threes with a thin space: 1 200. */
export function groupDigits(value: number): string {
  return String(Math.round(value)).replace(/\B(?=(\d{3})+(?!\d))/g, '\u2009');
}
