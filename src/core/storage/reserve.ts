const smallestReserve = 1e9;
const reserveShare = 0.02;

/** Bytes of a volume that a write test leaves free: a fiftieth of the volume, at least 1 GB. */
export function writeReserve(sizeBytes: number): number {
  return Math.max(smallestReserve, sizeBytes * reserveShare);
}

/** Bytes that may be written without touching the reserve; 0 when there is no room. */
export function writableBytes({ sizeBytes, freeBytes }: { sizeBytes: number; freeBytes: number }): number {
  return Math.max(0, freeBytes - writeReserve(sizeBytes));
}
