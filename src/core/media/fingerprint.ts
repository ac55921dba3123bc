/** Places over a clip's duration at which its picture is looked at, as shares of it. */
export const fingerprintPlaces: readonly number[] = Array.from(
  { length: 12 },
  (_, index) => (index + 0.5) / 12,
);

/** Raster of the small grey picture that a hash is made from: nine columns give eight steps a line. */
export const hashRaster = { width: 9, height: 8 } as const;

/** Bytes of one picture's hash. */
export const hashBytes = 8;

/**
 * A picture's hash: one bit for each step from a pixel to its right neighbour,
 * set where it grows brighter. It survives scaling, grading and coding, and two
 * pictures that differ differ in about half the bits.
 * @param luma grey values of `hashRaster`, line by line
 */
export function pictureHash(luma: Uint8Array): Uint8Array {
  const hash = new Uint8Array(hashBytes);
  for (let line = 0; line < hashRaster.height; line++) {
    for (let step = 0; step < 8; step++) {
      const at = line * hashRaster.width + step;
      if ((luma[at + 1] ?? 0) > (luma[at] ?? 0)) hash[line] = (hash[line] ?? 0) | (1 << step);
    }
  }
  return hash;
}

/** Share of bits in which two fingerprints differ, 0 to 1. Null when they were made at different numbers of places. */
export function fingerprintDistance(a: Uint8Array, b: Uint8Array): number | null {
  if (a.length !== b.length || a.length === 0) return null;
  let different = 0;
  for (let i = 0; i < a.length; i++) {
    for (let bits = (a[i] ?? 0) ^ (b[i] ?? 0); bits > 0; bits &= bits - 1) different++;
  }
  return different / (a.length * 8);
}
