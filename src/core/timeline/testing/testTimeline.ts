import { rational, type Rational } from '@/core/time/rational';
import { packetTableFrom, type PacketRow, type PacketTable } from '@/core/media/packetTable';
import { emptyTimeline, type Item, type MediaRef, type Source, type Timeline } from '../model';

const oneTimes = rational(1);

export function mediaRef(change: Partial<MediaRef> = {}): MediaRef {
  return {
    clipId: 'c',
    name: 'TW_WALL_0101.mov',
    reel: 'A001',
    startTimecode: '01:00:00:00',
    contentHash: 'h',
    rate: rational(24),
    frames: 200,
    width: 1920,
    height: 1080,
    ...change,
  };
}

export function clipItem(
  id: string,
  start: number,
  length: number,
  first = 0,
  change: Partial<Extract<Source, { kind: 'clip' }>> = {},
): Item {
  return {
    id,
    name: id,
    start,
    length,
    source: { kind: 'clip', media: 'm', in: first, speed: oneTimes, ...change },
    effects: [],
  };
}

/** A timeline at 24 with one track of the given items, all of media `m`. */
export function timelineOf(
  items: readonly Item[],
  rate: Rational = rational(24),
  media: Partial<MediaRef> = {},
): Timeline {
  const empty = emptyTimeline('Tidewrack', rate, 1920, 1080);
  return { ...empty, media: { m: mediaRef(media) }, tracks: [{ ...empty.tracks[0]!, items }] };
}

export function itemsOf(timeline: Timeline, track = 0): [string, number, number][] {
  return timeline.tracks[track]!.items.map(({ id, start, length }) => [id, start, length]);
}

/** Packets of `groups` groups of I P B B P B B ... in decode order: I0 P3 B1 B2 P6 B4 B5. */
export function longGop(groups: number, size = 13): PacketTable {
  const rows: PacketRow[] = [];
  for (let group = 0; group < groups; group++) {
    const at = group * size;
    const add = (frame: number, type: PacketRow['type']) =>
      rows.push({
        offset: rows.length * 100,
        size: type === 'I' ? 90 : 30,
        pts: at + frame,
        dts: rows.length,
        key: type === 'I',
        disposable: type === 'B',
        type,
      });
    add(0, 'I');
    for (let frame = 3; frame < size; frame += 3) {
      add(frame, 'P');
      add(frame - 2, 'B');
      add(frame - 1, 'B');
    }
  }
  return packetTableFrom(rows);
}

export function intra(frames: number): PacketTable {
  return packetTableFrom(
    Array.from({ length: frames }, (_, at): PacketRow => ({
      offset: at * 100,
      size: 80,
      pts: at,
      dts: at,
      key: true,
      disposable: false,
      type: 'I',
    })),
  );
}
