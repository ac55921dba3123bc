import { StreamRecords } from '../streamRecords';
import { addressOf } from '../api';

export interface LivePicture {
  readonly frame: number;
  readonly url: string;
}

/** Splits a stream of [length: uint32][frame: uint32][JPEG] records as bytes arrive. */
export class PictureParser extends StreamRecords<{ frame: number; jpeg: Uint8Array<ArrayBuffer> }> {
  constructor() {
    super(
      (length) => length,
      (_length, frame, jpeg) => ({ frame, jpeg }),
    );
  }
}

/** Reads a trial's live pictures until aborted or ended; gives the newest as an object URL and frees the one before. */
export async function watchPictures(
  trialId: string,
  signal: AbortSignal,
  onPicture: (picture: LivePicture) => void,
): Promise<void> {
  const response = await fetch(addressOf('GET /api/trials/{id}/pictures', { ids: { id: trialId } }), {
    signal,
  });
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
