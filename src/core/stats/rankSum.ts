/** Values in both samples together up to which the distribution is counted out; beyond, it is as good as normal, and counting takes long. */
const mostCounted = 30;

/** Ranks of values from 1, twice as large so that those of equal values, which share the mean of their places, are whole. */
function doubledRanks(values: readonly number[]): number[] {
  const order = values.map((_, at) => at).sort((a, b) => (values[a] as number) - (values[b] as number));
  const ranks = new Array<number>(values.length);
  for (let from = 0; from < order.length;) {
    let to = from;
    while (to < order.length && values[order[to] as number] === values[order[from] as number]) to++;
    for (let at = from; at < to; at++) ranks[order[at] as number] = from + 1 + to;
    from = to;
  }
  return ranks;
}

/** How many ways there are to choose `size` of some ranks with each sum. */
function waysBySum(ranks: readonly number[], size: number): Float64Array {
  const all = ranks.reduce((sum, rank) => sum + rank, 0);
  const ways = Array.from({ length: size + 1 }, () => new Float64Array(all + 1));
  (ways[0] as Float64Array)[0] = 1;
  let most = 0;
  ranks.forEach((rank, seen) => {
    most += rank;
    for (let chosen = Math.min(size, seen + 1); chosen > 0; chosen--) {
      const [into, from] = [ways[chosen] as Float64Array, ways[chosen - 1] as Float64Array];
      for (let sum = most; sum >= rank; sum--)
        into[sum] = (into[sum] as number) + (from[sum - rank] as number);
    }
  });
  return ways[size] as Float64Array;
}

/** Upper tail of the normal distribution (Abramowitz and Stegun 26.2.17). */
function normalTail(z: number): number {
  const t = 1 / (1 + 0.2316419 * z);
  const poly =
    t * (0.31938153 + t * (-0.356563782 + t * (1.781477937 + t * (-1.821255978 + t * 1.330274429))));
  return (Math.exp((-z * z) / 2) / Math.sqrt(2 * Math.PI)) * poly;
}

/**
 * Chance that two samples from one distribution lie apart at least as far as these, either way: the rank-sum test
 * (Mann and Whitney 1947), counted out over all ways to deal the values, ties and all; of many values by the normal distribution.
 * @returns 0 to 1; 1 when a sample is empty
 */
export function rankSumChance(a: readonly number[], b: readonly number[]): number {
  if (a.length === 0 || b.length === 0) return 1;
  const ranks = doubledRanks([...a, ...b]);
  const n = ranks.length;
  const sum = ranks.slice(0, a.length).reduce((total, rank) => total + rank, 0);
  const middle = a.length * (n + 1);
  const off = Math.abs(sum - middle);
  if (n <= mostCounted) {
    let [apart, all] = [0, 0];
    waysBySum(ranks, a.length).forEach((ways, at) => {
      all += ways;
      if (Math.abs(at - middle) >= off) apart += ways;
    });
    return apart / all;
  }
  const meanRank = n + 1;
  const spread = Math.sqrt(
    ((a.length * b.length) / (n * (n - 1))) *
      ranks.reduce((total, rank) => total + (rank - meanRank) ** 2, 0),
  );
  return spread === 0 ? 1 : Math.min(1, 2 * normalTail(Math.max(0, off - 1) / spread));
}

/** Chances corrected for being several at once (Holm 1979), in their order: of all that are below a level, one is there by chance no more often than the level says. Null, where nothing was tested, stays. */
export function holm(chances: readonly (number | null)[]): (number | null)[] {
  const tested = chances
    .flatMap((chance, at) => (chance === null ? [] : [{ chance, at }]))
    .sort((a, b) => a.chance - b.chance);
  const corrected = new Array<number | null>(chances.length).fill(null);
  let most = 0;
  tested.forEach(({ chance, at }, place) => {
    most = Math.max(most, Math.min(1, chance * (tested.length - place)));
    corrected[at] = most;
  });
  return corrected;
}
