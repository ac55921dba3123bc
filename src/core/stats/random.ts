/** A number in 0 to below 1 from a counter: the avalanche mix of mulberry32 (public domain). */
function mix32(counter: number): number {
  const state = counter >>> 0;
  let mixed = Math.imul(state ^ (state >>> 15), state | 1);
  mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
  return ((mixed ^ (mixed >>> 14)) >>> 0) / 4294967296;
}

/** The number in 0 to below 1 that stands at a place of a seed's row, without the ones before it. */
export function randomAt(seed: number, index: number): number {
  return mix32(seed + Math.imul(index, 0x6d2b79f5));
}

/**
 * A seeded generator of numbers in 0 to below 1 (mulberry32: a 32-bit counter
 * through an avalanche mix, public domain). The same seed gives the same row.
 */
export function seededRandom(seed: number): () => number {
  let state = seed | 0; // signed: whole numbers of 32 bits need no memory of their own
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    return mix32(state);
  };
}
