import { rational, toNumber, type Rational, multiply } from '../../time/rational';
import {
  canDropFrames,
  countingFor,
  formatTimecode,
  frameOfSameLabel,
  hasTimecode,
} from '../../time/timecode';
import { sourceFrom } from '../../timeline/edits';
import { sourceFrameAt } from '../../timeline/flatten';
import {
  emptyTimeline,
  mostOtherCharacters,
  shortName,
  type Effect,
  type Item,
  type Marker,
  type MediaRef,
  type Source,
  type Timeline,
  type Track,
} from '../../timeline/model';
import { mediaFrom, TimelineError, timelineFrom } from '../../timeline/schema';
import { availableOf, Composing, referenceOf, referencesOf, type Composed, type Leaf } from './compose';
import {
  list,
  numberOr,
  object,
  OtioError,
  ownOf,
  range,
  rangeOr,
  rescale,
  schemaOf,
  secondsOf,
  text,
  time,
  type Json,
  type Range,
  type Time,
} from './json';
import { keptText, metadataOfOthers } from './kept';
import { exactRate, exactSpeed, isPictureRate, pictureRate } from './rates';

export interface OtioImport {
  readonly timeline: Timeline;
  readonly notes: readonly string[];
}

/**
 * Reads a timeline in OpenTimelineIO's JSON form: Timeline.1, alone or the first of a SerializableCollection.1; tracks and
 * stacks in each other, trimmed to their source ranges; Clip.1 and 2, Gap.1, Transition.1, LinearTimeWarp.1, FreezeFrame.1,
 * Marker.1 and 2, external references, image sequences and missing references. What is not enabled lies on tracks that are
 * off. Sound is left out and named. Metadata of others and what their schemas hold is kept and written back.
 * @throws OtioError naming the place and what is wrong there
 */
export function parseOtio(source: string): OtioImport {
  let json: unknown;
  try {
    json = JSON.parse(source);
  } catch (error) {
    throw new OtioError('The file', 'otio-no-json', {
      reason: error instanceof Error ? error.message : String(error),
    });
  }
  const notes: string[] = [];
  return { timeline: new Reader(notes).read(timelineIn(object(json, 'The file'), notes)), notes };
}

/** The timeline that a file holds: itself, or the first of a collection. */
function timelineIn(root: Json, notes: string[]): Json {
  if (schemaOf(root) === 'Timeline') return root;
  if (schemaOf(root) !== 'SerializableCollection')
    throw new OtioError('The file', 'no-timeline', { schema: schemaOf(root) });
  const children = list(root.children, 'children').map((child, at) => object(child, `children[${at}]`));
  const found = children.find((child) => schemaOf(child) === 'Timeline');
  if (!found) throw new OtioError('The file', 'no-timeline', { schema: schemaOf(root) });
  if (children.length > 1)
    notes.push(
      `The file holds ${children.length} things; ${text(found.name) || 'its first timeline'} was read.`,
    );
  return found;
}

/** What a check gives. @throws OtioError for what it refuses */
function sound<Value>(check: () => Value): Value {
  try {
    return check();
  } catch (error) {
    if (error instanceof TimelineError)
      throw new OtioError(error.field ?? 'The timeline', 'otio-unsound', { problem: error.message });
    throw error;
  }
}

/** Fastest that a clip is played. */
const mostSpeed = 10_000;
const normalSpeed = rational(1);

class Reader {
  /** Without what objects have by themselves: the names come from the file. */
  private readonly media: Record<string, MediaRef> = Object.create(null) as Record<string, MediaRef>;
  private rate: Rational = rational(24);
  private count = 0;

  constructor(private readonly notes: string[]) {}

  read(root: Json): Timeline {
    const stack = object(root.tracks, 'tracks');
    const name = shortName(text(root.name) || 'Timeline', this.notes);
    const start = root.global_start_time ? time(root.global_start_time, 'global_start_time') : null;
    const ours = ownOf(root, 'The file');
    const found = pictureRate(stack) ?? (isPictureRate(start?.rate) ? start.rate : null) ?? 24;
    this.rate = ownRate(ours.rate, found) ?? exactRate(found);
    const composing = new Composing(toNumber(this.rate), this.notes);
    const whole = composing.compose({ ...stack, OTIO_SCHEMA: 'Stack.1', children: [] }, 'tracks');
    const part = rangeOr(stack.source_range, 'tracks.source_range');
    const tracks = list(stack.children, 'tracks.children').flatMap((child, index) => {
      const place = `tracks.children[${index}]`;
      const element = object(child, place);
      if (composing.isSound(element, place)) return [];
      // A stack of its own around each, so that the whole's range trims it as it trims all.
      const around: Json = {
        OTIO_SCHEMA: 'Stack.1',
        children: [element],
        source_range: part ? stack.source_range : null,
      };
      const { marks, ...composed } = composing.compose({ ...around, enabled: true }, 'tracks');
      return [{ element, composed: { ...composed, marks } }];
    });
    const marks = [...whole.marks, ...tracks.flatMap(({ composed }) => composed.marks)];
    const empty = emptyTimeline(name, this.rate, numberOr(ours.width, 1920), numberOr(ours.height, 1080));
    const made = tracks.flatMap(({ element, composed }, index) => this.tracksOf(element, composed, index));
    const timeline: Timeline = {
      ...empty,
      media: this.media,
      tracks: made.length > 0 ? made.map((track, at) => ({ ...track, id: `v${at + 1}` })) : empty.tracks,
      markers: this.markers(marks),
      startTimecode: startText(start, this.rate, ours.dropFrame),
      ...this.keep('The timeline', {
        metadata: metadataOfOthers(root),
        stack: metadataOfOthers(stack),
      }),
    };
    return sound(() => timelineFrom(timeline));
  }

  /** What others keep with an object, in its field; named where it is too much. */
  private keep(where: string, parts: Readonly<Record<string, unknown>>): { readonly other?: string } {
    const kept = keptText(parts);
    if (kept === undefined) return {};
    if (kept.length <= mostOtherCharacters) return { other: kept };
    this.notes.push(
      `${where}: ${kept.length} characters of metadata were left out; ${mostOtherCharacters} are kept at most.`,
    );
    return {};
  }

  /** A track of the file: one for each of its layers, and for each that has what is not enabled one more, which is off. */
  private tracksOf(element: Json, { layers }: Composed, index: number): Track[] {
    const isTrack = schemaOf(element) === 'Track';
    const name = text(element.name) || `V${index + 1}`;
    const isOn = element.enabled !== false;
    const other = isTrack ? this.keep(name, { metadata: metadataOfOthers(element) }) : {};
    const all = layers.length > 0 ? layers : [[]];
    return all.flatMap((leaves, layer): Track[] => {
      const called = layer === 0 ? name : `${name} ${layer + 1}`;
      const shown = {
        id: '',
        name: called,
        on: isOn,
        items: this.items(leaves.filter((leaf) => leaf.isOn || !isOn)),
      };
      const hidden = isOn ? this.items(leaves.filter((leaf) => !leaf.isOn)) : [];
      if (hidden.length > 0)
        this.notes.push(
          `${called}: ${hidden.length} ${hidden.length === 1 ? 'item is' : 'items are'} not enabled; ${hidden.length === 1 ? 'it lies' : 'they lie'} on a track of ${hidden.length === 1 ? 'its' : 'their'} own, which is off.`,
        );
      return [
        ...(shown.items.length > 0 || hidden.length === 0 || layer === 0
          ? [{ ...shown, ...(layer === 0 ? other : {}) }]
          : []),
        ...(hidden.length > 0 ? [{ id: '', name: `${called}, not enabled`, on: false, items: hidden }] : []),
      ];
    });
  }

  private items(leaves: readonly Leaf[]): Item[] {
    return leaves.flatMap((leaf) => this.item(leaf) ?? []);
  }

  private item({ element, where, start, length, cut }: Leaf): Item | null {
    const [from, to] = [Math.round(start), Math.round(start + length)];
    if (to <= from) {
      this.notes.push(`${where}: an item shorter than a slot was left out.`);
      return null;
    }
    // Of the part of a slot that rounding adds or takes, its source knows.
    const ours = ownOf(element, where);
    // A source of our own is told from its item's start, which a transition may lie before.
    const lead = ours.source && typeof ours.lead === 'number' ? ours.lead : 0;
    const shift = Math.round(cut + from - start + lead);
    const source = this.source(element, where, ours);
    const moved =
      shift === 0 ? source : sourceFrom(source, shift, { rate: this.rate, media: this.media } as Timeline);
    return {
      id: `o${++this.count}`,
      name: text(element.name),
      start: from,
      length: to - from,
      source: moved,
      effects: Array.isArray(ours.effects) ? (ours.effects as readonly Effect[]) : [],
      ...this.keep(where, this.othersOf(element, where)),
    };
  }

  /** What others have with a clip: metadata, effects that are not known here, and media references that do not count. */
  private othersOf(element: Json, where: string): Record<string, unknown> {
    const { all, active } = referencesOf(element, where);
    const { [active]: _counts, ...others } = all;
    const effects = list(element.effects ?? [], `${where}.effects`).filter(
      (effect) => !isTimeWarp(object(effect, `${where}.effects`)),
    );
    return {
      metadata: metadataOfOthers(element),
      effects,
      references: others,
      active: active === 'DEFAULT_MEDIA' ? undefined : active,
    };
  }

  private source(element: Json, where: string, ours: Json): Source {
    // What only this application knows is kept whole in its own metadata.
    const kept = ours.source as Source | undefined;
    const speed = this.speed(element, where);
    if (kept && kept.kind !== 'clip' && ours.media) {
      for (const [key, ref] of Object.entries(object(ours.media, `${where}.metadata.navvy.media`)))
        this.media[key] = sound(() => mediaFrom(ref));
      return kept;
    }
    if (kept?.kind === 'title') return kept;
    const available = availableOf(element, where);
    const shown = rangeOr(element.source_range, `${where}.source_range`) ?? available;
    if (!shown) throw new OtioError(where, 'length-unknown');
    const media = this.addMedia(element, where, available, shown, ours);
    const ref = this.media[media] as MediaRef;
    const first = secondsOf(shown.start) - (available ? secondsOf(available.start) : 0);
    const frame = Math.round(first * toNumber(ref.rate));
    const length = Math.max(1, Math.round(secondsOf(shown.duration) * toNumber(this.rate)));
    const inFrame =
      speed.num < 0
        ? Math.min(
            ref.frames - 1,
            sourceFrameAt(frame, length - 1, rational(Math.abs(speed.num), speed.den), ref.rate, this.rate),
          )
        : frame;
    return { kind: 'clip', media, in: inFrame, speed };
  }

  private addMedia(element: Json, where: string, available: Range | null, shown: Range, ours: Json): string {
    const reference = referenceOf(element, where);
    const url = text(reference.target_url);
    const name = mediaName(reference) || text(element.name) || 'missing';
    if (schemaOf(reference) === 'GeneratorReference')
      this.notes.push(
        `${where}: ${text(reference.generator_kind) || 'a generator'} makes pictures of its own, which are not at hand.`,
      );
    const key = text(ours.mediaId) || url || name;
    const original = (ours.mediaRef ?? undefined) as MediaRef | undefined;
    const told = [
      available?.start.rate,
      available?.duration.rate,
      shown.start.rate,
      shown.duration.rate,
    ].find(isPictureRate);
    const mediaRate =
      ownRate(original?.rate, told ?? toNumber(this.rate)) ?? exactRate(told ?? toNumber(this.rate));
    const reach =
      secondsOf(shown.start) - (available ? secondsOf(available.start) : 0) + secondsOf(shown.duration);
    const frames = available
      ? Math.round(secondsOf(available.duration) * toNumber(mediaRate))
      : Math.ceil(reach * toNumber(mediaRate) - 1e-6);
    const known = this.media[key];
    this.media[key] = known
      ? { ...known, frames: Math.max(known.frames, frames) }
      : {
          clipId: null,
          name,
          reel: typeof original?.reel === 'string' ? original.reel : null,
          contentHash: typeof original?.contentHash === 'string' ? original.contentHash : null,
          startTimecode:
            original === undefined ? startOfMedia(available, mediaRate) : (original.startTimecode ?? null),
          rate: mediaRate,
          frames: Math.max(1, frames),
          width: numberOr(original?.width, 1920),
          height: numberOr(original?.height, 1080),
          ...this.keep(where, referenceOfOthers(reference)),
        };
    return key;
  }

  private speed(element: Json, where: string): Rational {
    let speed = normalSpeed;
    list(element.effects ?? [], `${where}.effects`).forEach((child, number) => {
      const effect = object(child, `${where}.effects[${number}]`);
      const kind = schemaOf(effect);
      if (kind === 'FreezeFrame') speed = rational(0);
      else if (kind === 'LinearTimeWarp') {
        const scalar = effect.time_scalar;
        if (typeof scalar !== 'number' || !Number.isFinite(scalar))
          throw new OtioError(`${where}.effects[${number}]`, 'no-time-scalar');
        if (Math.abs(scalar * toNumber(speed)) > mostSpeed)
          throw new OtioError(`${where}.effects[${number}]`, 'speed-too-great', { most: mostSpeed });
        const own = ownOf(effect, where).speed;
        speed = multiply(speed, ownRate(own, scalar) ?? exactSpeed(scalar));
      } else
        this.notes.push(
          `${where}: the effect ${text(effect.effect_name) || text(effect.name) || kind} is not known; it is kept for other programs and not shown.`,
        );
    });
    return speed;
  }

  private markers(marks: Composed['marks']): Marker[] {
    return marks
      .map(({ element, at }, number): Marker => {
        const { duration } = range(element.marked_range, 'marked_range');
        return {
          id: `m${number + 1}`,
          at: Math.round(at),
          name: text(element.name) || text(element.comment),
          ...this.keep('A marker', {
            color: element.color === 'GREEN' ? undefined : element.color,
            comment: text(element.name) ? element.comment : undefined,
            metadata: metadataOfOthers(element),
            duration: duration.value === 0 ? undefined : duration,
          }),
        };
      })
      .sort((a, b) => a.at - b.at);
  }
}

const isTimeWarp = (effect: Json) => ['LinearTimeWarp', 'FreezeFrame'].includes(schemaOf(effect));

/** A ratio from our own metadata, where it is what the file tells as a decimal. */
function ownRate(value: unknown, told: number): Rational | null {
  if (typeof value !== 'object' || value === null) return null;
  const { num, den } = value as { num?: unknown; den?: unknown };
  const isRatio = Number.isSafeInteger(num) && Number.isSafeInteger(den) && (den as number) > 0;
  if (!isRatio || Math.abs((num as number) / (den as number) - told) > 1e-6 * Math.max(1, Math.abs(told)))
    return null;
  return rational(num as number, den as number);
}

/** A medium's name: its file's, or of an image sequence that of its files with the number as signs. */
function mediaName(reference: Json): string {
  if (schemaOf(reference) === 'ImageSequenceReference') {
    const digits = Math.min(20, Math.max(1, Math.floor(numberOr(reference.frame_zero_padding, 1))));
    return `${text(reference.name_prefix)}${'#'.repeat(digits)}${text(reference.name_suffix)}`;
  }
  return decode(text(reference.target_url).split(/[\\/]/).at(-1) ?? '') || text(reference.name);
}

function decode(part: string): string {
  try {
    return decodeURIComponent(part);
  } catch {
    return part;
  }
}

/** Whether an address is nothing but a file's name, as it is written here. */
function isNameAlone(url: string, name: string): boolean {
  try {
    return url === encodeURIComponent(name);
  } catch {
    return false; // half a character, which no name can have
  }
}

/** What a media reference of another program has besides what a timeline keeps of it. */
function referenceOfOthers(reference: Json): Record<string, unknown> {
  if (schemaOf(reference) === '' || schemaOf(reference) === 'MissingReference') return {};
  const { OTIO_SCHEMA, available_range: _range, metadata: _metadata, ...rest } = reference;
  const isPlain =
    OTIO_SCHEMA === 'ExternalReference.1' &&
    isNameAlone(text(rest.target_url), mediaName(reference)) &&
    Object.entries(rest).every(
      ([name, value]) =>
        name === 'target_url' || value === null || (name === 'name' && value === mediaName(reference)),
    );
  const metadata = metadataOfOthers(reference);
  return { reference: isPlain ? undefined : { OTIO_SCHEMA, ...rest }, metadata };
}

function startOfMedia(available: Range | null, rate: Rational): string | null {
  return available && available.start.value > 0
    ? formatTimecode(Math.round(secondsOf(available.start) * toNumber(rate)), countingFor(rate))
    : null;
}

/** Timecode of slot 0. Labels stay where a start is told at another rate of frames; of samples its time counts. */
function startText(start: Time | null, rate: Rational, dropFrame: unknown): string {
  const plain = countingFor(rate);
  if (!start) return formatTimecode(0, plain);
  const told = exactRate(start.rate);
  const isFrames = isPictureRate(start.rate) && hasTimecode(told) && hasTimecode(rate);
  const isOwnRate = Math.abs(start.rate - toNumber(rate)) < 1e-6;
  const frame =
    isFrames && !isOwnRate
      ? frameOfSameLabel(Math.round(start.value), countingFor(told), plain)
      : Math.round(isOwnRate ? start.value : rescale(start, toNumber(rate)));
  if (!canDropFrames(rate) || dropFrame === false) return formatTimecode(frame, plain);
  // A start that is a whole hour in one count and no whole minute in the other was counted so.
  const dropped = formatTimecode(frame, countingFor(rate, true));
  const isDropped = dropFrame === true || (/:00:00;00$/.test(dropped) && frame > 0);
  return isDropped ? dropped : formatTimecode(frame, plain);
}
