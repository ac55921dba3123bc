import { quantity, upTo } from '@/core/format';
import {
  endOf,
  fadeInSlots,
  lastStartedBy,
  type Item,
  type Timeline,
  type Track,
} from '@/core/timeline/model';
import type { SlotRange } from '../charts/slotAxis';

/** Sizes in CSS pixels. */
export const layout = { ruler: 24, track: 50, gap: 4 } as const;
const markerWidth = 8;
const markerHeight = 10;

export interface TimelineInk {
  readonly ground: string;
  readonly surface: string;
  readonly raised: string;
  readonly line: string;
  readonly edge: string;
  readonly ink: string;
  readonly muted: string;
  readonly signal: string;
  readonly slot: string;
  readonly hatch: CanvasPattern | string;
}

export function timelineInk(pen: CanvasRenderingContext2D): TimelineInk {
  const style = getComputedStyle(document.documentElement);
  const colour = (name: string) => style.getPropertyValue(name).trim();
  return {
    ground: colour('--ground'),
    surface: colour('--surface'),
    raised: colour('--raised'),
    line: colour('--line'),
    edge: colour('--edge'),
    ink: colour('--ink'),
    muted: colour('--muted'),
    signal: colour('--signal-text'),
    slot: colour('--slot'),
    hatch:
      pen.createPattern(hatchTile(colour('--signal-text'), colour('--surface')), 'repeat') ??
      colour('--signal-text'),
  };
}

/** Diagonal lines: media that are not at hand. */
function hatchTile(line: string, ground: string): HTMLCanvasElement {
  const tile = document.createElement('canvas');
  tile.width = tile.height = 8;
  const pen = tile.getContext('2d');
  if (pen) {
    pen.fillStyle = ground;
    pen.fillRect(0, 0, 8, 8);
    pen.strokeStyle = line;
    pen.beginPath();
    pen.moveTo(-2, 10);
    pen.lineTo(10, -2);
    pen.moveTo(-2, 2);
    pen.lineTo(2, -2);
    pen.moveTo(6, 10);
    pen.lineTo(10, 6);
    pen.stroke();
  }
  return tile;
}

/** Top of a track in the canvas: the uppermost layer stands highest. */
export function trackTop(index: number, tracks: number): number {
  return layout.ruler + (tracks - 1 - index) * (layout.track + layout.gap) + layout.gap;
}

export function timelineHeight(tracks: number): number {
  return layout.ruler + tracks * (layout.track + layout.gap) + layout.gap;
}

/** The track under a height, counted from the bottom layer; null beside all tracks. */
export function trackAt(y: number, tracks: number): number | null {
  const row = Math.floor((y - layout.ruler - layout.gap / 2) / (layout.track + layout.gap));
  return row < 0 || row >= tracks ? null : tracks - 1 - row;
}

export interface Painted {
  readonly timeline: Timeline;
  readonly range: SlotRange;
  readonly selected: ReadonlySet<string>;
  readonly marks: { readonly in: number | null; readonly out: number | null };
  readonly timecodeAt: (slot: number) => string;
}

/** Paints ruler, tracks and items. Work grows with what is in sight, not with the timeline. */
export function paintTimeline(
  pen: CanvasRenderingContext2D,
  { timeline, range, selected, marks, timecodeAt }: Painted,
  width: number,
  ink: TimelineInk,
  rulerless = false,
): void {
  const tracks = timeline.tracks.length;
  const shift = rulerless ? -layout.ruler : 0;
  pen.save();
  pen.translate(0, shift);
  pen.clearRect(0, 0, width, timelineHeight(tracks));
  const x = (slot: number) => ((slot - range.from) / (range.to - range.from)) * width;
  timeline.tracks.forEach((track, index) => {
    const top = trackTop(index, tracks);
    pen.fillStyle = ink.surface;
    pen.fillRect(0, top, width, layout.track);
    paintTrack(pen, timeline, track, range, x, top, selected, ink);
  });
  if (!rulerless) paintRuler(pen, timeline, range, width, x, marks, timecodeAt, ink);
  pen.restore();
}

function paintTrack(
  pen: CanvasRenderingContext2D,
  timeline: Timeline,
  track: Track,
  range: SlotRange,
  x: (slot: number) => number,
  top: number,
  selected: ReadonlySet<string>,
  ink: TimelineInk,
): void {
  const { items } = track;
  let lastPixel = -1;
  for (let index = Math.max(0, lastStartedBy(items, range.from) - 1); index < items.length; index++) {
    const item = items[index] as Item;
    if (item.start > range.to) break;
    const left = x(item.start);
    const right = x(endOf(item));
    const isSelected = selected.has(item.id);
    // Items narrower than a pixel share it.
    if (right - lastPixel < 0.75 && !isSelected) continue;
    lastPixel = Math.max(right, left + 1);
    paintItem(pen, timeline, item, left, Math.max(1, right - left), top, isSelected, track.on, ink);
    const fade = fadeInSlots(items, index);
    if (fade > 0) paintFade(pen, left, x(item.start + fade), top, ink);
  }
}

const kindMarks: Record<Item['source']['kind'], string> = {
  clip: '',
  still: 'still · ',
  angles: 'angles · ',
  title: 'title · ',
};

function paintItem(
  pen: CanvasRenderingContext2D,
  timeline: Timeline,
  item: Item,
  left: number,
  width: number,
  top: number,
  isSelected: boolean,
  on: boolean,
  ink: TimelineInk,
): void {
  const { source } = item;
  const missing =
    source.kind === 'clip' || source.kind === 'still'
      ? timeline.media[source.media]?.clipId == null
      : source.kind === 'angles' && source.angles.some(({ media }) => timeline.media[media]?.clipId == null);
  pen.globalAlpha = on ? 1 : 0.4;
  pen.fillStyle = missing ? ink.hatch : isSelected ? ink.line : ink.raised;
  pen.fillRect(left, top, width, layout.track);
  if (width > 3) {
    pen.strokeStyle = isSelected ? ink.signal : ink.edge;
    pen.lineWidth = isSelected ? 2 : 1;
    pen.strokeRect(left + 0.5, top + 0.5, width - 1, layout.track - 1);
  }
  if (width > 28) {
    pen.save();
    pen.beginPath();
    pen.rect(left + 4, top, width - 8, layout.track);
    pen.clip();
    const text = `${kindMarks[source.kind]}${item.name}`;
    pen.font = '13px "Atkinson Hyperlegible Next Variable", sans-serif';
    if (missing) {
      pen.fillStyle = ink.surface;
      pen.fillRect(left + 4, top + 3, Math.min(width - 8, pen.measureText(text).width + 6), 18);
    }
    pen.fillStyle = ink.ink;
    pen.fillText(text, left + 7, top + 17);
    pen.fillStyle = isSelected ? ink.ink : ink.muted;
    pen.font = '11px "Atkinson Hyperlegible Next Variable", sans-serif';
    pen.fillText(detailOf(item, missing), left + 7, top + 34);
    pen.restore();
  }
  pen.globalAlpha = 1;
}

/** Under an item's name: its speed and what works on it. */
function detailOf(item: Item, missing: boolean): string {
  const on = item.effects.filter((effect) => effect.on).length;
  return [
    missing ? 'missing' : '',
    item.source.kind === 'clip' && item.source.speed.num !== item.source.speed.den
      ? quantity(upTo((item.source.speed.num / item.source.speed.den) * 100, 1), '%')
      : '',
    on > 0 ? `${on} ${on === 1 ? 'effect' : 'effects'}` : '',
  ]
    .filter(Boolean)
    .join(', ');
}

/** A cross-fade: a line from foot to head. */
function paintFade(
  pen: CanvasRenderingContext2D,
  left: number,
  right: number,
  top: number,
  ink: TimelineInk,
): void {
  pen.fillStyle = ink.ground;
  pen.globalAlpha = 0.45;
  pen.beginPath();
  pen.moveTo(left, top + layout.track);
  pen.lineTo(right, top);
  pen.lineTo(left, top);
  pen.fill();
  pen.globalAlpha = 1;
  pen.strokeStyle = ink.ink;
  pen.lineWidth = 1.5;
  pen.beginPath();
  pen.moveTo(left, top + layout.track);
  pen.lineTo(right, top);
  pen.stroke();
}

/** Distances between ticks that read well: in slots, seconds and minutes. */
function tickStep(slotsPerPixel: number, rate: number): number {
  const least = slotsPerPixel * 110;
  const second = Math.round(rate);
  for (const step of [
    1,
    2,
    5,
    10,
    second,
    second * 2,
    second * 5,
    second * 10,
    second * 30,
    second * 60,
    second * 120,
    second * 300,
    second * 600,
    second * 1_800,
  ])
    if (step >= least) return step;
  return second * 3_600;
}

function paintRuler(
  pen: CanvasRenderingContext2D,
  timeline: Timeline,
  range: SlotRange,
  width: number,
  x: (slot: number) => number,
  marks: Painted['marks'],
  timecodeAt: (slot: number) => string,
  ink: TimelineInk,
): void {
  pen.fillStyle = ink.ground;
  pen.fillRect(0, 0, width, layout.ruler);
  if (marks.in !== null || marks.out !== null) {
    const from = x(marks.in ?? 0);
    const to = x(marks.out === null ? Number.MAX_SAFE_INTEGER : marks.out + 1);
    pen.fillStyle = ink.edge;
    pen.fillRect(Math.max(0, from), layout.ruler - 5, Math.min(width, to) - Math.max(0, from), 5);
  }
  const step = tickStep((range.to - range.from) / width, timeline.rate.num / timeline.rate.den);
  pen.font = '12px "Atkinson Hyperlegible Mono Variable", monospace';
  pen.lineWidth = 1;
  for (let slot = Math.ceil(range.from / step) * step; slot <= range.to; slot += step) {
    const at = Math.round(x(slot)) + 0.5;
    pen.strokeStyle = ink.edge;
    pen.beginPath();
    pen.moveTo(at, 4);
    pen.lineTo(at, layout.ruler);
    pen.stroke();
    pen.fillStyle = ink.muted;
    if (at + 84 < width) pen.fillText(timecodeAt(slot), at + 4, 12);
  }
  for (const { at } of timeline.markers) {
    const left = x(at);
    if (left < -markerWidth || left > width + 1) continue;
    // A flag, in the colour of what is written: the playhead's is the signal's.
    pen.fillStyle = ink.ink;
    pen.fillRect(Math.round(left), layout.ruler - markerHeight, 1, markerHeight);
    pen.fillRect(Math.round(left), layout.ruler - markerHeight, markerWidth, markerHeight / 2);
  }
}
