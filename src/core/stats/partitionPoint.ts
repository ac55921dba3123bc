/** The first of `count` indexes for which `isBefore` is false; `count` when there is none. All for which it is true come first. Halving, so logarithmic. */
export function partitionPoint(count: number, isBefore: (index: number) => boolean): number {
  let low = 0;
  let high = count;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (isBefore(middle)) low = middle + 1;
    else high = middle;
  }
  return low;
}
