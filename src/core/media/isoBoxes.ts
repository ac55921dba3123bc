/** One box of an ISO base media file (ISO/IEC 14496-12, 4.2), offsets from the beginning of what was read. */
export interface IsoBox {
  readonly type: string;
  readonly start: number;
  /** First byte behind the box's header. */
  readonly body: number;
  readonly end: number;
}

/** Size and type of the box that begins at `at`, or null where there is none. A size of 0 reaches to `end`. */
export function readBox(bytes: Uint8Array, at: number, end: number): IsoBox | null {
  if (at + 8 > bytes.length) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const type = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
  const short = view.getUint32(at);
  const long = short === 1 && at + 16 <= bytes.length;
  const size = long
    ? view.getUint32(at + 8) * 2 ** 32 + view.getUint32(at + 12)
    : short === 0
      ? end - at
      : short;
  const header = long ? 16 : 8;
  return size < header ? null : { type, start: at, body: at + header, end: at + size };
}

/** The boxes inside a part of a file. Stops at the first that cannot be. */
export function* boxesIn(bytes: Uint8Array, from: number, to: number): Generator<IsoBox> {
  for (let at = from; at < to;) {
    const box = readBox(bytes, at, to);
    if (!box) return;
    yield box;
    at = box.end;
  }
}

/** One line of an edit list: what is shown, in the movie's and the track's time scale. */
export interface Edit {
  readonly duration: number;
  /** -1 shows nothing for the duration. */
  readonly mediaTime: number;
  readonly rate: number;
}

/** The edit list of the first picture track of a `moov` box. Empty when it has none. Source: ISO/IEC 14496-12, 8.6.6. */
export function editList(moov: Uint8Array): Edit[] {
  for (const track of boxesIn(moov, 8, moov.length)) {
    if (track.type !== 'trak' || !isPictureTrack(moov, track)) continue;
    const edts = find(moov, track, 'edts');
    const elst = edts && find(moov, edts, 'elst');
    return elst ? readEdits(moov, elst) : [];
  }
  return [];
}

function find(bytes: Uint8Array, parent: IsoBox, type: string): IsoBox | null {
  for (const box of boxesIn(bytes, parent.body, Math.min(parent.end, bytes.length)))
    if (box.type === type) return box;
  return null;
}

function isPictureTrack(moov: Uint8Array, track: IsoBox): boolean {
  const media = find(moov, track, 'mdia');
  const handler = media && find(moov, media, 'hdlr');
  return (
    handler !== null && String.fromCharCode(...moov.subarray(handler.body + 8, handler.body + 12)) === 'vide'
  );
}

const mostEdits = 100_000;

function readEdits(moov: Uint8Array, { body, end }: IsoBox): Edit[] {
  const view = new DataView(moov.buffer, moov.byteOffset, moov.byteLength);
  const last = Math.min(end, moov.length);
  if (body + 8 > last) return [];
  const wide = moov[body] === 1;
  const size = wide ? 20 : 12;
  const edits: Edit[] = [];
  let at = body + 8;
  for (
    let left = Math.min(mostEdits, view.getUint32(body + 4));
    left > 0 && at + size <= last;
    left--, at += size
  ) {
    const duration = wide ? view.getUint32(at) * 2 ** 32 + view.getUint32(at + 4) : view.getUint32(at);
    const mediaTime = wide
      ? view.getInt32(at + 8) * 2 ** 32 + view.getUint32(at + 12)
      : view.getInt32(at + 4);
    edits.push({
      duration,
      mediaTime,
      rate: view.getInt16(at + size - 4) + view.getUint16(at + size - 2) / 65_536,
    });
  }
  return edits;
}
