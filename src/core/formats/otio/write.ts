import { equals, rational, toNumber, type Rational } from '../../time/rational';
import { countingFor, isDropFrameText, parseTimecode } from '../../time/timecode';
import { sourceFrameAt } from '../../timeline/flatten';
import {
  endOf,
  fadeInSlots,
  type Item,
  type Marker,
  type MediaRef,
  type Source,
  type Timeline,
  type Track,
} from '../../timeline/model';
import { keptObject, keptOf } from './kept';

/** What another reader of the file will not see, since the form has no place for it; our own metadata keeps it for Navvy. */
export function otioLosses(timeline: Timeline): string[] {
  const items = timeline.tracks.flatMap((track) => track.items);
  const losses: string[] = [];
  const count = (matches: (item: Item) => boolean, one: string, many: string) => {
    const found = items.filter(matches).length;
    if (found > 0) losses.push(`${found} ${found === 1 ? one : many}`);
  };
  count(
    ({ effects }) => effects.length > 0,
    'item with effects: other readers see it without them.',
    'items with effects: other readers see them without.',
  );
  count(
    ({ source }) => source.kind === 'angles',
    'item of several angles: other readers see its first angle.',
    'items of several angles: other readers see their first angle.',
  );
  count(
    ({ source }) => source.kind === 'still',
    'moving still: other readers see it at rest.',
    'moving stills: other readers see them at rest.',
  );
  count(
    ({ source }) => source.kind === 'title',
    'title: other readers see a clip without media.',
    'titles: other readers see clips without media.',
  );
  return losses;
}

/** Times of the form, at a rate. */
class Times {
  constructor(private readonly rate: Rational) {}

  value(frames: number, of: Rational = this.rate) {
    return { OTIO_SCHEMA: 'RationalTime.1', rate: toNumber(of), value: frames };
  }

  span(start: number, frames: number, of: Rational = this.rate, lengthRate: Rational = of) {
    return {
      OTIO_SCHEMA: 'TimeRange.1',
      start_time: this.value(start, of),
      duration: this.value(frames, lengthRate),
    };
  }
}

const normalSpeed = rational(1);

/** Writes a timeline in OpenTimelineIO's JSON form. What the form has no place for stands in `metadata.navvy`; what other programs had there is written back as it came. */
export function writeOtio(timeline: Timeline): string {
  return `${JSON.stringify(new Writer(timeline).timeline(), null, 2)}\n`;
}

class Writer {
  private readonly times: Times;

  constructor(private readonly document: Timeline) {
    this.times = new Times(document.rate);
  }

  timeline(): unknown {
    const { name, rate, width, height, startTimecode, tracks, markers, other } = this.document;
    const counting = countingFor(rate, isDropFrameText(startTimecode));
    const kept = keptOf(other);
    return {
      OTIO_SCHEMA: 'Timeline.1',
      name,
      metadata: {
        ...keptObject(kept, 'metadata'),
        navvy: { width, height, rate, dropFrame: counting.dropFrame },
      },
      global_start_time: this.times.value(parseTimecode(startTimecode, counting)),
      tracks: {
        OTIO_SCHEMA: 'Stack.1',
        name: 'tracks',
        metadata: keptObject(kept, 'stack'),
        source_range: null,
        effects: [],
        enabled: true,
        markers: markers.map((marker) => this.marker(marker)),
        children: tracks.map((track) => this.track(track)),
      },
    };
  }

  private marker({ at, name, other }: Marker): unknown {
    const { duration, color, comment, ...kept } = keptOf(other);
    return {
      OTIO_SCHEMA: 'Marker.2',
      name,
      metadata: keptObject(kept, 'metadata'),
      color: typeof color === 'string' ? color : 'GREEN',
      comment: typeof comment === 'string' ? comment : '',
      marked_range: {
        OTIO_SCHEMA: 'TimeRange.1',
        start_time: this.times.value(at),
        duration: isTime(duration) ? { OTIO_SCHEMA: 'RationalTime.1', ...duration } : this.times.value(0),
      },
    };
  }

  private track(track: Track): unknown {
    return {
      OTIO_SCHEMA: 'Track.1',
      kind: 'Video',
      name: track.name,
      metadata: keptObject(keptOf(track.other), 'metadata'),
      source_range: null,
      effects: [],
      markers: [],
      enabled: track.on,
      children: this.children(track),
    };
  }

  /** Items one after the other, each up to where it is cut; over a cut a transition reaches as far as both are seen. */
  private children(track: Track): unknown[] {
    const out: unknown[] = [];
    let at = 0;
    track.items.forEach((item, index) => {
      const fade = fadeInSlots(track.items, index);
      const next = track.items[index + 1];
      // What lies wholly below its follower keeps a slot of its own.
      const start = fade > 0 ? at : item.start;
      const fadeOut = next ? Math.max(0, endOf(item) - next.start) : 0;
      const end =
        next && fadeOut > 0 ? Math.max(start + 1, next.start + Math.floor(fadeOut / 2)) : endOf(item);
      if (start > at) out.push(this.gap(start - at));
      if (fade > 0) out.push(this.transition(start - item.start, fade - (start - item.start)));
      out.push(this.clip(item, start, end - start));
      at = end;
    });
    return out;
  }

  private gap(length: number): unknown {
    return {
      OTIO_SCHEMA: 'Gap.1',
      name: '',
      metadata: {},
      effects: [],
      markers: [],
      enabled: true,
      source_range: this.times.span(0, length),
    };
  }

  private transition(before: number, after: number): unknown {
    return {
      OTIO_SCHEMA: 'Transition.1',
      name: 'Cross-fade',
      metadata: {},
      transition_type: 'SMPTE_Dissolve',
      in_offset: this.times.value(before),
      out_offset: this.times.value(after),
    };
  }

  private clip(item: Item, start: number, length: number): unknown {
    const { document, times } = this;
    const { source } = item;
    const key = firstMedium(source);
    const ref = key === null ? null : (document.media[key] ?? null);
    const kept = keptOf(item.other);
    const speed = source.kind === 'clip' ? source.speed : normalSpeed;
    const active = typeof kept.active === 'string' ? kept.active : 'DEFAULT_MEDIA';
    return {
      OTIO_SCHEMA: 'Clip.2',
      name: item.name,
      enabled: true,
      markers: [],
      metadata: {
        ...keptObject(kept, 'metadata'),
        navvy: {
          ...(item.effects.length > 0 ? { effects: item.effects } : {}),
          ...(source.kind === 'clip'
            ? {}
            : {
                source,
                lead: start - item.start,
                media: Object.fromEntries(mediaEntries(source, document)),
              }),
          ...(ref ? { mediaId: key, mediaRef: { ...ref, clipId: null, other: undefined } } : {}),
        },
      },
      effects: [...timeWarps(speed), ...(Array.isArray(kept.effects) ? (kept.effects as unknown[]) : [])],
      source_range: ref ? this.sourceRange(source, ref, start - item.start, length) : times.span(0, length),
      media_references: {
        ...keptObject(kept, 'references'),
        [active]: ref ? this.reference(ref) : missingReference,
      },
      active_media_reference_key: active,
    };
  }

  /** A clip's range in its medium, from some slots on. Played backwards it still names the frames from the first to the last. */
  private sourceRange(source: Source, ref: MediaRef, from: number, length: number): unknown {
    const { rate } = this.document;
    const base = ref.startTimecode ? framesOf(ref.startTimecode, ref.rate) : 0;
    const speed = source.kind === 'clip' ? source.speed : normalSpeed;
    const first =
      source.kind === 'clip'
        ? sourceFrameAt(source.in, from, speed, ref.rate, rate)
        : source.kind === 'angles'
          ? (source.angles[0]?.in ?? 0)
          : 0;
    const lowest = speed.num < 0 ? sourceFrameAt(first, length - 1, speed, ref.rate, rate) : first;
    return this.times.span(base + lowest, length, ref.rate, rate);
  }

  private reference(ref: MediaRef): unknown {
    const kept = keptOf(ref.other);
    const base = ref.startTimecode ? framesOf(ref.startTimecode, ref.rate) : 0;
    return {
      OTIO_SCHEMA: 'ExternalReference.1',
      name: ref.name,
      available_image_bounds: null,
      target_url: encodeURIComponent(ref.name),
      ...keptObject(kept, 'reference'),
      metadata: keptObject(kept, 'metadata'),
      available_range: this.times.span(base, ref.frames, ref.rate),
    };
  }
}

const missingReference = {
  OTIO_SCHEMA: 'MissingReference.1',
  name: '',
  metadata: {},
  available_range: null,
  available_image_bounds: null,
};

function timeWarps(speed: Rational): unknown[] {
  if (equals(speed, normalSpeed)) return [];
  const kind = speed.num === 0 ? 'FreezeFrame' : 'LinearTimeWarp';
  return [
    {
      OTIO_SCHEMA: `${kind}.1`,
      name: '',
      effect_name: kind,
      metadata: { navvy: { speed } },
      time_scalar: toNumber(speed),
    },
  ];
}

/** The medium that other readers see of a source. */
function firstMedium(source: Source): string | null {
  switch (source.kind) {
    case 'clip':
    case 'still':
      return source.media;
    case 'angles':
      return source.angles[0]?.media ?? null;
    case 'title':
      return null;
  }
}

const isTime = (value: unknown): value is { readonly value: number; readonly rate: number } =>
  typeof value === 'object' &&
  value !== null &&
  typeof (value as { value?: unknown }).value === 'number' &&
  typeof (value as { rate?: unknown }).rate === 'number';

function mediaEntries(source: Source, timeline: Timeline): [string, MediaRef][] {
  const keys =
    source.kind === 'angles'
      ? source.angles.map(({ media }) => media)
      : source.kind === 'still'
        ? [source.media]
        : [];
  return keys.flatMap((key) => {
    const ref = timeline.media[key];
    return ref ? [[key, { ...ref, clipId: null }]] : [];
  });
}

function framesOf(timecode: string, rate: Rational): number {
  try {
    return parseTimecode(timecode, countingFor(rate, isDropFrameText(timecode)));
  } catch {
    return 0;
  }
}
