import type { FieldsWay } from '@/core/playback/settings';
import type { Effect, Rect } from '@/core/timeline/model';
import { wholePicture } from '@/core/timeline/model';
import type { Raster } from '@/core/timeline/deviceRaster';
import { forDisplay, type GraphOutput } from '../codec/depth';
import { oneField, scaledTo, type FirstField } from '../codec/fields';
import type { Layer } from '@/core/timeline/flatten';

/** The picture a layer is made of, as the decoder gives it. */
export interface SourcePicture {
  readonly width: number;
  readonly height: number;
  readonly format: number;
  readonly pixelAspect: { readonly num: number; readonly den: number };
  /** Interlaced: which field comes first; null where it is one picture. */
  readonly fields: FirstField | null;
}

/** Where files lie that the graph's filters read. */
export interface GraphFiles {
  readonly font: string;
  /** A look's tables in the order in which pictures go through them; none when the look is gone. */
  readonly look: (id: string) => readonly LookFile[];
}

/** A table of a look, as filters read it. */
export interface LookFile {
  readonly path: string;
  readonly dimensions: 1 | 3;
}

export type { Raster };

/** The formats that layers are worked on in: 8 bits a channel, or 16 where a source has more than 8 and they are to be kept. */
const workFormats = {
  plain: { opaque: 'gbrp', clear: 'gbrap' },
  deep: { opaque: 'gbrp16le', clear: 'gbrp16le' },
} as const;

/** How a graph works and what it gives. */
export interface GraphForm {
  /** 16 bits a channel. */
  readonly deep: boolean;
  /** What becomes of interlaced pictures. */
  readonly fields: FieldsWay;
  /** The last filters: what the picture comes out as. */
  readonly output: GraphOutput;
}

/** Text of an option's value: once for the filter, once for the graph. */
function escaped(text: string): string {
  return text.replace(/[\\':]/g, '\\$&').replace(/[\\'[\],;]/g, '\\$&');
}

const number = (value: number) => String(Math.round(value * 1e6) / 1e6);
const evenly = (value: number) => Math.max(2, Math.round(value));

/** The pixels of a picture that a rectangle in fractions means. */
export function pixelsOf(
  rect: Rect,
  { width, height }: Raster,
): { x: number; y: number; width: number; height: number } {
  const w = Math.min(width, evenly(rect.width * width));
  const h = Math.min(height, evenly(rect.height * height));
  return {
    x: Math.min(width - w, Math.max(0, Math.round(rect.x * width))),
    y: Math.min(height - h, Math.max(0, Math.round(rect.y * height))),
    width: w,
    height: h,
  };
}

type Transform = Extract<Effect, { kind: 'transform' }>;

const transformOf = (layer: Layer): Transform | undefined =>
  layer.effects.find((effect): effect is Transform => effect.kind === 'transform');

/** How much of a layer is seen, 0 to 1: by its own opacity and a fade. */
const opacityOf = (layer: Layer): number => layer.fade * (transformOf(layer)?.opacity ?? 1);

/** Where a layer's picture comes to lie: the largest place within `place` that keeps its shape. */
export function placeOf(
  picture: { width: number; height: number; pixelAspect: { num: number; den: number } },
  place: Rect,
  raster: Raster,
): { x: number; y: number; width: number; height: number } {
  const aspect =
    picture.pixelAspect.num > 0 && picture.pixelAspect.den > 0
      ? picture.pixelAspect.num / picture.pixelAspect.den
      : 1;
  const shape = (picture.width * aspect) / picture.height;
  const [boxWidth, boxHeight] = [place.width * raster.width, place.height * raster.height];
  const width = Math.min(boxWidth, boxHeight * shape);
  const height = width / shape;
  return {
    x: Math.round(place.x * raster.width + (boxWidth - width) / 2),
    y: Math.round(place.y * raster.height + (boxHeight - height) / 2),
    width: evenly(width),
    height: evenly(height),
  };
}

/** White, and the most that the codec library lets come out of a table of levels: at 16 bits that is white of 8 bits with zeros behind it, from where it is stretched to white. */
const plainTable = { white: 255, most: 255 } as const;
const deepTable = { white: 65_535, most: 65_280 } as const;

/**
 * A filter of the codec library for one effect, or null where it needs none.
 * Colour work is on R'G'B' of 8 or 16 bits. White balance: gains per channel. Lift, gamma,
 * gain: out = (gain (in + lift (1 - in)))^(1/gamma). Saturation: distance from
 * the luma of ITU-R BT.709.
 */
export function filterOf(effect: Effect, raster: Raster, files: GraphFiles, deep = false): string | null {
  switch (effect.kind) {
    case 'white-balance': {
      const [red, green, blue] = effect.gains;
      return `colorchannelmixer=rr=${number(red)}:gg=${number(green)}:bb=${number(blue)}`;
    }
    case 'lift-gamma-gain': {
      const { white, most } = deep ? deepTable : plainTable;
      const channel = (at: 0 | 1 | 2) =>
        `'round(${most}*pow(clip(${number(effect.gain[at])}*(val/${white}+${number(effect.lift[at])}*(1-val/${white})),0,1),${number(1 / Math.max(0.01, effect.gamma[at]))}))'`;
      const table = `lutrgb=r=${channel(0)}:g=${channel(1)}:b=${channel(2)}`;
      if (!deep) return table;
      const full = number(most / white);
      return `${table},colorlevels=rimax=${full}:gimax=${full}:bimax=${full}`;
    }
    case 'saturation': {
      const s = effect.amount;
      const [r, g, b] = [0.2126 * (1 - s), 0.7152 * (1 - s), 0.0722 * (1 - s)];
      return `colorchannelmixer=rr=${number(r + s)}:rg=${number(g)}:rb=${number(b)}:gr=${number(r)}:gg=${number(g + s)}:gb=${number(b)}:br=${number(r)}:bg=${number(g)}:bb=${number(b + s)}`;
    }
    case 'lut': {
      const tables = effect.lookId === null ? [] : files.look(effect.lookId);
      const filters = tables.map(
        ({ dimensions, path }) =>
          `lut${dimensions}d=file=${escaped(path)}:interp=${dimensions === 3 ? 'tetrahedral' : 'linear'}`,
      );
      return filters.length > 0 ? filters.join(',') : null;
    }
    case 'title':
      return titleFilter(effect, raster, files, 1);
    case 'blur':
      return effect.radius > 0 ? `gblur=sigma=${number(Math.max(0.1, effect.radius * raster.height))}` : null;
    case 'transform':
      return null; // done by the layer's own crop, scale and place
  }
}

function titleFilter(
  { text, size, x, y }: Extract<Effect, { kind: 'title' }>,
  { width, height }: Raster,
  { font }: GraphFiles,
  alpha: number,
): string | null {
  if (text.trim() === '') return null;
  return `drawtext=fontfile=${escaped(font)}:expansion=none:text=${escaped(text)}:fontsize=${Math.max(4, Math.round(size * height))}:fontcolor=white@${number(alpha)}:x=${Math.round(x * width)}-tw/2:y=${Math.round(y * height)}-th/2`;
}

/** One layer of a graph, with how its values change from slot to slot. */
export interface GraphLayer {
  readonly layer: Layer;
  /** Null: it draws itself on what lies below. */
  readonly picture: SourcePicture | null;
}

/**
 * The chain of filters that makes one slot's picture of its layers: each is
 * cropped and scaled to the playback raster, worked on, and laid over what is
 * below; the result is converted as a display wants it. Inputs are `buffer@n`,
 * in the order of the layers with a picture; `buffer@base` is the black ground
 * where the lowest layer does not cover it, `buffer@maskN` what a layer covers of the raster where pictures of
 * 16 bits are merged.
 */
export function describeGraph(
  layers: readonly GraphLayer[],
  raster: Raster,
  files: GraphFiles,
  form: GraphForm = { deep: false, fields: 'woven', output: forDisplay },
): { text: string; base: boolean; masks: readonly GraphMask[] } {
  const { deep, output } = form;
  const parts: string[] = [];
  const masks: GraphMask[] = [];
  const work = deep ? workFormats.deep : workFormats.plain;
  const base = needsBase(layers, raster);
  let below = base ? 'base' : '';
  if (base)
    parts.push(
      `${bufferOf('base', { ...raster, format: work.opaque, pixelAspect: { num: 1, den: 1 } })}[base]`,
    );
  layers.forEach(({ layer, picture }, at) => {
    const transform = transformOf(layer);
    if (!picture) {
      const titles = layer.effects.flatMap((effect) =>
        effect.kind === 'title' ? (titleFilter(effect, raster, files, opacityOf(layer)) ?? []) : [],
      );
      if (titles.length > 0) {
        parts.push(`[${below}]${titles.join(',')}[titled${at}]`);
        below = `titled${at}`;
      }
      return;
    }
    const { place, filters } = layerFilters(layer, picture, transform, at, raster, files, form);
    const name = `layer${at}`;
    parts.push(`${bufferOf(String(at), picture)},${filters.join(',')}[${name}]`);
    if (below === '') below = name;
    else if (deep) {
      const merged = deepMerge(below, name, place, raster, opacityOf(layer), at);
      parts.push(...merged.parts);
      if (merged.mask) masks.push(merged.mask);
      below = merged.over;
    } else {
      parts.push(`[${below}][${name}]overlay=x=${place.x}:y=${place.y}:format=gbrp[over${at}]`);
      below = `over${at}`;
    }
  });
  return { text: `${parts.join(';')};[${below}]${output(deep)},buffersink@out`, base, masks };
}

/** What a layer covers of the raster: an input of its own. */
export interface GraphMask {
  /** The layer's place among all. */
  readonly at: number;
  readonly place: { readonly x: number; readonly y: number; readonly width: number; readonly height: number };
}

/** Lays a picture of 16 bits over what is below: the codec library lays over in 8 or 10 bits alone, and merges in any. */
function deepMerge(
  below: string,
  name: string,
  place: GraphMask['place'],
  raster: Raster,
  opacity: number,
  at: number,
): { parts: string[]; mask: GraphMask | null; over: string } {
  const over = `over${at}`;
  const blend = `blend@fade${at}=all_mode=normal:all_opacity=${number(opacity)}[${over}]`;
  const left = Math.max(0, place.x);
  const top = Math.max(0, place.y);
  const seen = {
    x: left,
    y: top,
    width: Math.min(raster.width, place.x + place.width) - left,
    height: Math.min(raster.height, place.y + place.height) - top,
  };
  const covers = seen.width >= raster.width && seen.height >= raster.height;
  const isWhole = seen.width === place.width && seen.height === place.height;
  const parts: string[] = [];
  let laid = name;
  if (!isWhole) {
    parts.push(
      `[${laid}]crop=w=${Math.max(1, seen.width)}:h=${Math.max(1, seen.height)}:x=${Math.max(0, left - place.x)}:y=${Math.max(0, top - place.y)}:exact=1[seen${at}]`,
    );
    laid = `seen${at}`;
  }
  if (covers) return { parts: [...parts, `[${laid}][${below}]${blend}`], mask: null, over };
  parts.push(
    `[${laid}]pad=w=${raster.width}:h=${raster.height}:x=${seen.x}:y=${seen.y}[laid${at}]`,
    `${bufferOf(`mask${at}`, { ...raster, format: workFormats.deep.opaque, pixelAspect: { num: 1, den: 1 } })}[mask${at}]`,
  );
  const mask = { at, place: seen };
  if (opacity >= 1)
    return { parts: [...parts, `[${below}][laid${at}][mask${at}]maskedmerge[${over}]`], mask, over };
  parts.push(
    `[${below}]split[under${at}][left${at}]`,
    `[under${at}][laid${at}][mask${at}]maskedmerge[merged${at}]`,
    `[merged${at}][left${at}]${blend}`,
  );
  return { parts, mask, over };
}

function bufferOf(
  name: string,
  {
    width,
    height,
    format,
    pixelAspect,
  }: { width: number; height: number; format: number | string; pixelAspect: { num: number; den: number } },
): string {
  return `buffer@${name}=video_size=${width}x${height}:pix_fmt=${format}:time_base=1/25:pixel_aspect=${Math.max(0, pixelAspect.num)}/${Math.max(1, pixelAspect.den)}`;
}

function needsBase(layers: readonly GraphLayer[], raster: Raster): boolean {
  const lowest = layers[0];
  if (!lowest?.picture) return true;
  const transform = transformOf(lowest.layer);
  const place = placeOf(
    croppedSize(lowest.picture, lowest.layer.view, transform),
    transform?.place ?? wholePicture,
    raster,
  );
  return (
    opacityOf(lowest.layer) < 1 ||
    place.x !== 0 ||
    place.y !== 0 ||
    place.width !== raster.width ||
    place.height !== raster.height
  );
}

function croppedSize(picture: SourcePicture, view: Rect, transform: Transform | undefined): SourcePicture {
  const crop = within(view, transform?.crop ?? wholePicture);
  return { ...picture, ...pixelsOf(crop, picture) };
}

/** A part of a part. */
function within(outer: Rect, inner: Rect): Rect {
  return {
    x: outer.x + inner.x * outer.width,
    y: outer.y + inner.y * outer.height,
    width: outer.width * inner.width,
    height: outer.height * inner.height,
  };
}

function layerFilters(
  layer: Layer,
  picture: SourcePicture,
  transform: Transform | undefined,
  at: number,
  raster: Raster,
  files: GraphFiles,
  { deep, fields }: GraphForm,
) {
  const work = deep ? workFormats.deep : workFormats.plain;
  const crop = within(layer.view, transform?.crop ?? wholePicture);
  const part = pixelsOf(crop, picture);
  const isWoven = picture.fields !== null && fields === 'woven';
  const isApart = picture.fields !== null && fields === 'deinterlaced';
  const free = placeOf(
    { ...part, pixelAspect: picture.pixelAspect },
    transform?.place ?? wholePicture,
    raster,
  );
  // The first line of a picture of two fields lies on the first line of two.
  const place = isWoven ? { ...free, y: 2 * Math.round(free.y / 2) } : free;
  const moving = layer.item.source.kind === 'still';
  const whole = part.width === picture.width && part.height === picture.height;
  const clear = opacityOf(layer) < 1;
  return {
    place,
    filters: [
      ...(isApart ? [oneField(picture.fields ?? 'top', layer.field, String(at))] : []),
      ...(whole && !moving
        ? []
        : [`crop@view${at}=w=${part.width}:h=${part.height}:x=${part.x}:y=${part.y}:exact=1`]),
      scaledTo(place, isWoven),
      `format=${clear ? work.clear : work.opaque}`,
      'setsar=1',
      ...layer.effects
        .map((effect) => filterOf(effect, place, files, deep))
        .filter((filter) => filter !== null),
      ...(clear && !deep ? [`colorchannelmixer@fade${at}=aa=${number(opacityOf(layer))}`] : []),
    ],
  };
}

/** What changes in a graph from one slot to the next: commands for its named filters. */
export function graphCommands(
  layers: readonly GraphLayer[],
  deep = false,
): { target: string; command: string; value: string }[] {
  return layers.flatMap(({ layer, picture }, at) => {
    if (!picture) return [];
    const transform = transformOf(layer);
    const commands: { target: string; command: string; value: string }[] = [];
    if (layer.item.source.kind === 'still') {
      const part = pixelsOf(within(layer.view, transform?.crop ?? wholePicture), picture);
      // Position is checked against the size, so the size goes first where it shrinks; the filter takes any order that fits.
      for (const [command, value] of [
        ['x', 0],
        ['y', 0],
        ['w', part.width],
        ['h', part.height],
        ['x', part.x],
        ['y', part.y],
      ] as const)
        commands.push({ target: `crop@view${at}`, command, value: String(value) });
    }
    if (layer.fade < 1)
      commands.push({
        target: deep ? `blend@fade${at}` : `colorchannelmixer@fade${at}`,
        command: deep ? 'all_opacity' : 'aa',
        value: number(opacityOf(layer)),
      });
    return commands;
  });
}

/** Two slots with the same key can be made by the same graph, given the commands. */
export function graphKey(layers: readonly GraphLayer[]): string {
  return layers
    .map(({ layer, picture }) => {
      const drawn = !picture && layer.fade < 1 ? `@${layer.fade}` : ''; // a title's fade is built in
      return `${layer.item.id}/${layer.media ?? ''}/${layer.fade < 1 ? 'fading' : 'whole'}${drawn}/${picture ? `${picture.width}x${picture.height}:${picture.format}${picture.fields === null ? '' : `:${picture.fields}${layer.field}`}` : ''}`;
    })
    .join('|');
}
