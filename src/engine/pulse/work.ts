const sumSteps = 20_000;
/** As large as fits any processor's second-level cache with room to spare: 128 KiB. */
const places = 1 << 15;
const readSteps = 16_384;
const cacheLineBytes = 64;

/** A way through all places in an order that no processor foresees: each holds the next. Sattolo's shuffle with fixed numbers. */
function wayThrough(): Int32Array {
  const next = Int32Array.from({ length: places }, (_, index) => index);
  let random = 7;
  for (let last = places - 1; last > 0; last--) {
    random = (Math.imul(random, 1_103_515_245) + 12_345) & 0x7fff_ffff;
    const other = random % last;
    [next[last], next[other]] = [next[other] as number, next[last] as number];
  }
  return next;
}

const way = wayThrough();

/** Brings what is read into the cache: what the trial's own work put out of it is no slowness of the machine. */
export function warmPulse(): number {
  let sum = 0;
  for (let at = 0; at < places; at += cacheLineBytes / 4) sum += way[at] as number;
  return sum;
}

/**
 * The pulse's fixed work, some 0.14 ms on a processor of 2019: arithmetic of which each step needs the last one's result,
 * then reads of which each tells where the next is. It follows the clock and the cache, and hardly what else a core has
 * under way at once. Found on the rig by what went best with decode times: reads beyond the cache and many sums at once
 * swing twice as far as decoding does.
 */
export function pulseWork(): number {
  let sum = 0x1234_5678;
  for (let step = 0; step < sumSteps; step++) {
    sum ^= sum << 13;
    sum ^= sum >>> 17;
    sum ^= sum << 5;
  }
  let at = sum & 1;
  for (let step = 0; step < readSteps; step++) at = way[at] as number;
  return sum ^ at;
}
