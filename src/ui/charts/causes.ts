import type { Cause } from '@/core/playback/slots';

export type Hatch = 'level' | 'rising' | 'crossed' | 'dots' | 'broken';

/** Each cause has a word, a hatching and a colour. */
export const causeStyles: Record<
  Cause,
  { readonly word: string; readonly variable: string; readonly hatch: Hatch }
> = {
  read: { word: 'read', variable: '--cause-read', hatch: 'level' },
  decode: { word: 'decode', variable: '--cause-decode', hatch: 'rising' },
  process: { word: 'process', variable: '--cause-process', hatch: 'crossed' },
  present: { word: 'present', variable: '--cause-present', hatch: 'dots' },
  media: { word: 'media', variable: '--cause-media', hatch: 'broken' },
};

/** A small tile drawn with a cause's hatching, for canvas patterns; `scale` is the device's pixel ratio. */
export function hatchTile(hatch: Hatch, colour: string, ground: string, scale: number): HTMLCanvasElement {
  const size = Math.round(6 * scale);
  const tile = document.createElement('canvas');
  tile.width = tile.height = size;
  const pen = tile.getContext('2d');
  if (!pen) return tile;
  pen.fillStyle = colour;
  pen.fillRect(0, 0, size, size);
  pen.strokeStyle = pen.fillStyle = ground;
  pen.lineWidth = 1.6 * scale;
  pen.beginPath();
  if (hatch === 'level') {
    pen.moveTo(0, size / 2);
    pen.lineTo(size, size / 2);
  }
  // No upright lines: they would read as borders between slots.
  if (hatch === 'rising' || hatch === 'crossed')
    for (const shift of [-size, 0, size]) {
      pen.moveTo(shift, size);
      pen.lineTo(shift + size, 0);
    }
  if (hatch === 'crossed')
    for (const shift of [-size, 0, size]) {
      pen.moveTo(shift, 0);
      pen.lineTo(shift + size, size);
    }
  if (hatch === 'broken') {
    pen.moveTo(0, size * 0.75);
    pen.lineTo(size / 2, size * 0.25);
    pen.lineTo(size, size * 0.75);
  }
  if (hatch === 'dots') {
    pen.arc(size / 2, size / 2, 1.3 * scale, 0, Math.PI * 2);
    pen.fill();
  }
  pen.stroke();
  return tile;
}
