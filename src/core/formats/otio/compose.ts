import { list, object, OtioError, range, rangeOr, schemaOf, secondsOf, text, time, type Json } from './json';

/** A clip where it is seen, in slots, not yet whole ones. */
export interface Leaf {
  readonly element: Json;
  readonly where: string;
  readonly start: number;
  readonly length: number;
  /** Slots of the clip that lie before its start here: cut off by what holds it, or negative where it fades in early. */
  readonly cut: number;
  /** Whether it and all that holds it are enabled. */
  readonly isOn: boolean;
}

/** A marker where it stands, in slots. */
export interface Mark {
  readonly element: Json;
  readonly at: number;
}

/** What an object of a file shows: layers from the bottom up, and how long it is. */
export interface Composed {
  readonly length: number;
  readonly layers: readonly (readonly Leaf[])[];
  readonly marks: readonly Mark[];
}

/** Deepest that tracks and stacks lie in each other. */
const deepest = 64;
/** Slots that are nothing: times are told as decimals. */
const nothing = 1e-6;

/**
 * Lays tracks and stacks out in the time of what holds them: children of a track one after the other, those of a stack over
 * each other, each trimmed to its source range (OpenTimelineIO, "time ranges and transforms of compositions").
 */
export class Composing {
  constructor(
    private readonly slotsPerSecond: number,
    private readonly notes: string[],
  ) {}

  private slots(seconds: number): number {
    return seconds * this.slotsPerSecond;
  }

  /** @throws OtioError naming the place of what has no length, or cannot be read */
  compose(element: Json, where: string, depth = 0): Composed {
    if (depth > deepest) throw new OtioError(where, 'otio-too-deep', { most: deepest });
    const kind = schemaOf(element);
    switch (kind) {
      case 'Clip':
        return this.clip(element, where);
      case 'Gap':
        return this.gap(element, where);
      case 'Track':
        return this.trimmed(element, where, this.track(element, where, depth));
      case 'Stack':
        return this.trimmed(element, where, this.stack(element, where, depth));
      default: {
        // Its time is kept where it tells one.
        const known = rangeOr(element.source_range, `${where}.source_range`);
        this.notes.push(
          `${where}: a ${kind || 'thing without a schema'} was left out${known ? '; a gap is in its place' : ''}.`,
        );
        return { length: known ? this.slots(secondsOf(known.duration)) : 0, layers: [], marks: [] };
      }
    }
  }

  private marksOf(element: Json, where: string, origin: number): Mark[] {
    return list(element.markers ?? [], `${where}.markers`).map((child, number) => {
      const place = `${where}.markers[${number}]`;
      const marker = object(child, place);
      const { start } = range(marker.marked_range, `${place}.marked_range`);
      return { element: marker, at: this.slots(secondsOf(start)) - origin };
    });
  }

  private clip(element: Json, where: string): Composed {
    const source = rangeOr(element.source_range, `${where}.source_range`) ?? availableOf(element, where);
    if (!source) throw new OtioError(where, 'length-unknown');
    const length = this.slots(secondsOf(source.duration));
    const marks = this.marksOf(element, where, this.slots(secondsOf(source.start)));
    return {
      length,
      layers: [[{ element, where, start: 0, length, cut: 0, isOn: element.enabled !== false }]],
      marks,
    };
  }

  private gap(element: Json, where: string): Composed {
    const { start, duration } = range(element.source_range, `${where}.source_range`);
    return {
      length: this.slots(secondsOf(duration)),
      layers: [],
      marks: this.marksOf(element, where, this.slots(secondsOf(start))),
    };
  }

  private stack(element: Json, where: string, depth: number): Composed {
    let length = 0;
    const layers: (readonly Leaf[])[] = [];
    const marks: Mark[] = [];
    list(element.children, `${where}.children`).forEach((child, number) => {
      const place = `${where}.children[${number}]`;
      const inner = object(child, place);
      if (this.isSound(inner, place)) return;
      const composed = this.compose(inner, place, depth + 1);
      length = Math.max(length, composed.length);
      layers.push(...composed.layers);
      marks.push(...composed.marks);
    });
    return { length, layers, marks };
  }

  /** Sound is named and left out. */
  isSound(element: Json, where: string): boolean {
    if (schemaOf(element) !== 'Track' || element.kind === undefined || element.kind === 'Video') return false;
    this.notes.push(
      `${where}: the ${text(element.kind).toLowerCase()} track ${text(element.name)} was left out.`,
    );
    return true;
  }

  private track(element: Json, where: string, depth: number): Composed {
    const layers: Leaf[][] = [];
    const marks: Mark[] = [];
    let at = 0;
    /** The transition that was read last, and nothing since. */
    let pending: { readonly early: number; readonly late: number; readonly where: string } | null = null;
    const unmet = () => {
      if (pending)
        this.notes.push(`${pending.where}: a fade to or from black, or of several layers, was left out.`);
      pending = null;
    };
    list(element.children, `${where}.children`).forEach((child, number) => {
      const place = `${where}.children[${number}]`;
      const inner = object(child, place);
      if (schemaOf(inner) === 'Transition') {
        unmet();
        pending = {
          early: this.slots(secondsOf(time(inner.in_offset, `${place}.in_offset`))),
          late: this.slots(secondsOf(time(inner.out_offset, `${place}.out_offset`))),
          where: place,
        };
        return;
      }
      if (this.isSound(inner, place)) return;
      const composed = this.compose(inner, place, depth + 1);
      const begin = at;
      const before = layers[0]?.at(-1);
      const [first] = composed.layers[0] ?? [];
      const joins =
        pending !== null &&
        composed.layers.length === 1 &&
        first?.start === 0 &&
        before !== undefined &&
        Math.abs(before.start + before.length - begin) < nothing;
      if (!joins) unmet();
      const { early, late } = pending ?? { early: 0, late: 0 };
      pending = null;
      if (before && joins)
        (layers[0] as Leaf[])[(layers[0] as Leaf[]).length - 1] = { ...before, length: before.length + late };
      composed.layers.forEach((leaves, layer) => {
        const into = (layers[layer] ??= []);
        leaves.forEach((leaf, index) => {
          const lead = joins && layer === 0 && index === 0 ? early : 0;
          into.push({
            ...leaf,
            start: leaf.start + begin - lead,
            length: leaf.length + lead,
            cut: leaf.cut - lead,
          });
        });
      });
      marks.push(...composed.marks.map((mark) => ({ ...mark, at: mark.at + begin })));
      at += composed.length;
    });
    unmet();
    return { length: at, layers, marks };
  }

  /** A composition's own part of its children, with its markers, and whether it is enabled. */
  private trimmed(element: Json, where: string, whole: Composed): Composed {
    const part = rangeOr(element.source_range, `${where}.source_range`);
    const from = part ? this.slots(secondsOf(part.start)) : 0;
    const length = part ? this.slots(secondsOf(part.duration)) : whole.length;
    if (list(element.effects ?? [], `${where}.effects`).length > 0)
      this.notes.push(`${where}: the effects of a ${schemaOf(element)} were left out.`);
    const own = this.marksOf(element, where, 0);
    const isOn = element.enabled !== false;
    const layers = whole.layers
      .map((leaves) => leaves.flatMap((leaf) => cutTo({ ...leaf, isOn: leaf.isOn && isOn }, from, length)))
      .filter((leaves) => leaves.length > 0);
    const marks = [...own, ...whole.marks].map((mark) => ({ ...mark, at: mark.at - from }));
    if (!part) return { length, layers, marks };
    const seen = marks.filter(({ at }) => at > -nothing && at < Math.max(length, nothing));
    const lost = marks.length - seen.length;
    if (lost > 0)
      this.notes.push(
        `${where}: ${lost} ${lost === 1 ? 'marker' : 'markers'} outside of what is seen of it ${lost === 1 ? 'was' : 'were'} left out.`,
      );
    return { length, layers, marks: seen };
  }
}

/** A leaf's part within a stretch, in the stretch's time. */
function cutTo(leaf: Leaf, from: number, length: number): Leaf[] {
  const start = leaf.start - from;
  const end = Math.min(length, start + leaf.length);
  const begin = Math.max(0, start);
  return end - begin < nothing
    ? []
    : [{ ...leaf, start: begin, length: end - begin, cut: leaf.cut + begin - start }];
}

/** A clip's media references by their keys, and which of them counts. */
export function referencesOf(element: Json, where: string): { readonly all: Json; readonly active: string } {
  const { media_references: many, active_media_reference_key: key, media_reference: one } = element;
  if (many === undefined || many === null)
    return { all: { DEFAULT_MEDIA: one ?? {} }, active: 'DEFAULT_MEDIA' };
  const all = object(many, `${where}.media_references`);
  const wanted = [text(key), 'DEFAULT_MEDIA', ...Object.keys(all)].find((name) => Object.hasOwn(all, name));
  return { all, active: wanted ?? 'DEFAULT_MEDIA' };
}

/** The media reference that counts of a clip. */
export function referenceOf(element: Json, where: string): Json {
  const { all, active } = referencesOf(element, where);
  return object(all[active] ?? {}, `${where}.media_references`);
}

/** What its medium says that there is of it; null where it does not. */
export const availableOf = (element: Json, where: string) =>
  rangeOr(referenceOf(element, where).available_range, `${where}.available_range`);
