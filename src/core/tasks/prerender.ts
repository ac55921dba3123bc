import { courseSlot, flattenSlot, partAt, type Course, type PrerenderedPart } from '../timeline/flatten';
import { wholePicture, type Item, type Timeline } from '../timeline/model';
import { exportCodecs, plainChoice, type ExportChoice } from './exportCodecs';

/** What a part of a timeline is rendered into: every frame is a key frame, so that any of them is as quickly at hand. */
export const intermediateIds = [
  'prores-lt',
  'prores',
  'prores-hq',
  'dnxhr-sq',
  'dnxhr-hqx',
  'mjpeg',
] as const;
export type IntermediateId = (typeof intermediateIds)[number];

const prores = { codec: 'prores', picture: '10-bit 4:2:2', control: 'class' } as const;
const dnxhr = { codec: 'dnxhr', control: 'class' } as const;
const choices: Readonly<Record<IntermediateId, Partial<ExportChoice>>> = {
  'prores-lt': { ...prores, rateClass: '1' },
  prores: { ...prores, rateClass: '2' },
  'prores-hq': { ...prores, rateClass: '3' },
  'dnxhr-sq': { ...dnxhr, picture: '8-bit 4:2:2', rateClass: 'dnxhr_sq' },
  'dnxhr-hqx': { ...dnxhr, picture: '10-bit 4:2:2', rateClass: 'dnxhr_hqx' },
  mjpeg: { codec: 'mjpeg', picture: '8-bit 4:2:2', control: 'quality', quality: 3 },
};

/** How an intermediate is written. It has no sound: that is mixed of the clips as ever. */
export function intermediateChoice(id: IntermediateId): ExportChoice {
  return { ...plainChoice, ...choices[id] };
}

/** "ProRes LT, 10-bit 4:2:2". */
export function intermediateWords(id: IntermediateId): string {
  const { codec, picture, rateClass } = intermediateChoice(id);
  const { name, classes } = exportCodecs[codec];
  const grade = classes?.find((one) => one.id === rateClass)?.name;
  return `${[name, grade].filter(Boolean).join(' ')}, ${picture}`;
}

/**
 * All that decides what a stretch of a timeline looks like, as text: two stretches of the same text have the same pictures. Names of
 * items and tracks are no part of it, nor is what lies in it without being seen; media are known by their content.
 * @param to slot after the last
 */
export function pictureText(timeline: Timeline, from: number, to: number): string {
  const { rate, width, height, media } = timeline;
  const identityOf = (id: string) => {
    const ref = media[id];
    return ref?.contentHash ?? ref?.clipId ?? ref?.name ?? id;
  };
  // What an item's slots share is told once: an hour has 90 000 of them.
  const shared: string[] = [];
  const known = new Map<string, number>();
  const numberOf = (text: string) => {
    const number = known.get(text) ?? shared.push(text) - 1;
    known.set(text, number);
    return number;
  };
  const ofItem = new Map<Item, number>();
  const slots: string[] = [];
  for (let slot = from; slot < to; slot++)
    slots.push(
      flattenSlot(timeline, slot)
        .layers.map(({ item, media: id, frame, effects, fade, view }) => {
          const look =
            ofItem.get(item) ?? numberOf(JSON.stringify(effects.map(({ id: _id, ...effect }) => effect)));
          ofItem.set(item, look);
          const content = id === null ? '' : numberOf(identityOf(id));
          return [content, frame, look, fade, view === wholePicture ? '' : JSON.stringify(view)].join(' ');
        })
        .join('|'),
    );
  return JSON.stringify([rate, width, height, shared, slots]);
}

/** A rendered stretch that a run may use. */
export interface Rendered {
  readonly media: string;
  readonly from: number;
  readonly to: number;
}

/** Lays rendered stretches out so that none overlaps: where several hold a slot, the first of them is used. */
export function layOut(rendered: readonly Rendered[]): PrerenderedPart[] {
  const parts: PrerenderedPart[] = [];
  for (const { media, from, to } of rendered) {
    let free = [{ from, to }];
    for (const taken of parts)
      free = free.flatMap((piece) => [
        ...(piece.from < taken.from ? [{ from: piece.from, to: Math.min(piece.to, taken.from) }] : []),
        ...(piece.to > taken.to ? [{ from: Math.max(piece.from, taken.to), to: piece.to }] : []),
      ]);
    parts.push(...free.map((piece) => ({ ...piece, media, origin: from })));
  }
  return parts.sort((a, b) => a.from - b.from);
}

/** Slots of a run that are shown from what was rendered before. */
export function prerenderedSlots(course: Course): number {
  const { prerendered = [], slots } = course;
  let count = 0;
  for (let index = 0; index < slots; index++) if (partAt(prerendered, courseSlot(course, index))) count++;
  return count;
}

/** "340 of 1200 slots"; "nothing" of a run that works all out anew. */
export function prerenderedWords(course: Course): string {
  return course.prerendered ? `${prerenderedSlots(course)} of ${course.slots} slots` : 'nothing';
}
