import type { Course } from '../timeline/flatten';
import { endOf, fadeInSlots, type Item, type Timeline } from '../timeline/model';
import type { Rational } from '../time/rational';

export const soundRate = 48_000;

/** A stretch of a clip's sound in what is made, in samples of the result. */
export interface SoundPart {
  readonly media: string;
  /** First sample in the result, and how many. */
  readonly at: number;
  readonly samples: number;
  /** Where it begins in the clip, s. */
  readonly fromSeconds: number;
  /** Linear fades at its ends, as far as they lie in the result: samples before its first, and their number. */
  readonly fadeIn: { readonly begun: number; readonly samples: number };
  readonly fadeOut: { readonly left: number; readonly samples: number };
}

/** The first sample of a slot of the result. Exact: no error adds up. */
export function sampleAt(slot: number, rate: Rational): number {
  return Number(
    (BigInt(slot) * BigInt(rate.den) * BigInt(soundRate) * 2n + BigInt(rate.num)) / (2n * BigInt(rate.num)),
  );
}

/** Slots of a timeline that a course shows one after the other. */
interface Stretch {
  readonly from: number;
  readonly slots: number;
  /** Slot of the course that is the first of them. */
  readonly begins: number;
}

/**
 * The sound of a course that runs forwards at its own speed, once or round and round: of every item of all tracks that are on whose
 * clip runs as it was shot; of several angles, the one that is seen. Items that change their speed are silent. Where two overlap,
 * one fades into the other.
 */
export function soundPlan(timeline: Timeline, { from, slots, speed, loop }: Course): SoundPart[] {
  if (speed !== 1) return [];
  const parts: SoundPart[] = [];
  for (let begins = 0; begins < slots;) {
    const begin = begins === 0 || !loop ? from : loop.from;
    const length = Math.min(slots - begins, loop ? loop.to - begin : slots);
    parts.push(...soundOfStretch(timeline, { from: begin, slots: length, begins }));
    begins += length;
  }
  return parts;
}

function soundOfStretch(timeline: Timeline, { from, slots, begins }: Stretch): SoundPart[] {
  return timeline.tracks
    .filter(({ on }) => on)
    .flatMap(({ items }) =>
      items.flatMap((item, index) => {
        const next = items[index + 1];
        const fades = {
          in: fadeInSlots(items, index),
          out: next ? fadeInSlots(items, index + 1) : 0,
        };
        return sourcesOf(item).flatMap(({ media, firstFrame, begin, end }): SoundPart[] => {
          const ref = timeline.media[media];
          const [first, last] = [Math.max(begin, from), Math.min(end, from + slots)];
          if (!ref || last <= first) return [];
          const { rate } = timeline;
          const length = (count: number) => sampleAt(count, rate);
          const slotSeconds = rate.den / rate.num;
          const at = sampleAt(begins + first - from, rate);
          return [
            {
              media,
              at,
              samples: sampleAt(begins + last - from, rate) - at,
              fromSeconds: (firstFrame * ref.rate.den) / ref.rate.num + (first - begin) * slotSeconds,
              fadeIn: { begun: length(first - item.start), samples: length(fades.in) },
              fadeOut: { left: length(endOf(item) - last), samples: length(fades.out) },
            },
          ];
        });
      }),
    );
}

/** The sound of the first slots of a clip that is played by itself. */
export function wholeClip(media: string, slots: number, rate: Rational): SoundPart {
  const samples = sampleAt(slots, rate);
  const none = { begun: 0, samples: 0 };
  return { media, at: 0, samples, fromSeconds: 0, fadeIn: none, fadeOut: { left: 0, samples: 0 } };
}

/** Stretches of an item that sound: which medium from which frame on, in slots of the timeline. */
function sourcesOf({ start, length, source }: Item) {
  const end = start + length;
  if (source.kind === 'clip')
    return source.speed.num === source.speed.den
      ? [{ media: source.media, firstFrame: source.in, begin: start, end }]
      : [];
  if (source.kind !== 'angles') return [];
  return source.switches.flatMap(({ at, angle }, index) => {
    const seen = source.angles[angle];
    return seen
      ? [
          {
            media: seen.media,
            firstFrame: seen.in + at,
            begin: start + at,
            end: start + (source.switches[index + 1]?.at ?? length),
          },
        ]
      : [];
  });
}

/** How loud a part is at a sample of it, 0 to 1. */
export function gainAt({ samples, fadeIn, fadeOut }: SoundPart, sample: number): number {
  const rise = fadeIn.samples > 0 ? (fadeIn.begun + sample + 0.5) / fadeIn.samples : 1;
  const fall = fadeOut.samples > 0 ? (fadeOut.left + (samples - sample) - 0.5) / fadeOut.samples : 1;
  return Math.max(0, Math.min(1, rise, fall));
}
