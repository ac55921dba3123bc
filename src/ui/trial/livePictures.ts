export interface LivePicture {
  readonly frame: number;
  readonly url: string;
}

/** Splits a stream of [length: uint32][frame: uint32][JPEG] records as bytes arrive. */
export class PictureParser {
  private pending = new Uint8Array(0);

  /** Takes bytes; returns the records that are whole now. */
  push(bytes: Uint8Array): { frame: number; jpeg: Uint8Array<ArrayBuffer> }[] {
    const joined = new Uint8Array(this.pending.length + bytes.length);
    joined.set(this.pending);
    joined.set(bytes, this.pending.length);
    const records: { frame: number; jpeg: Uint8Array<ArrayBuffer> }[] = [];
    let at = 0;
    while (joined.length - at >= 8) {
      const head = new DataView(joined.buffer, at, 8);
      const length = head.getUint32(0, true);
      if (joined.length - at - 8 < length) break;
      records.push({ frame: head.getUint32(4, true), jpeg: joined.slice(at + 8, at + 8 + length) });
      at += 8 + length;
    }
    this.pending = joined.slice(at);
    return records;
  }
}

/** Reads a trial's live pictures until aborted or ended; gives the newest as an object URL and frees the one before. */
export async function watchPictures(trialId: string, signal: AbortSignal, onPicture: (picture: LivePicture) => void): Promise<void> {
  const response = await fetch(`/api/trials/${trialId}/pictures`, { signal });
  const reader = response.ok ? response.body?.getReader() : undefined;
  if (!reader) return;
  const parser = new PictureParser();
  let last: string | null = null;
  for (let part = await reader.read(); !part.done; part = await reader.read()) {
    const newest = parser.push(part.value).at(-1);
    if (!newest) continue;
    if (last) URL.revokeObjectURL(last);
    last = URL.createObjectURL(new Blob([newest.jpeg], { type: 'image/jpeg' }));
    onPicture({ frame: newest.frame, url: last });
  }
}
