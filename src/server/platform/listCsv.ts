import { csvOf, type Cell } from '@/core/formats/csv';

/**
 * A long list as CSV (RFC 4180), piece by piece.
 * @param most entries in a piece
 * @param pieceAfter the entries after the first so many, each with its lines; where there are fewer than `most` they are the last
 */
export async function* csvInPieces(
  head: readonly string[],
  most: number,
  pieceAfter: (skip: number) => Promise<readonly (readonly (readonly Cell[])[])[]>,
): AsyncGenerator<string> {
  yield csvOf([head]);
  for (let skip = 0; ; skip += most) {
    const entries = await pieceAfter(skip);
    const lines = entries.flat();
    if (lines.length > 0) yield csvOf(lines);
    if (entries.length < most) return;
  }
}
