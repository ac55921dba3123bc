import { wholePicture, type Item } from './model';

/** Pixels across and down. */
export interface Raster {
  readonly width: number;
  readonly height: number;
}

/** Chroma of all formats comes in whole pixels. */
const evenly = (pixels: number) => 2 * Math.ceil(pixels / 2);

/** Rasters come in whole pixels, so that a picture and its place may be off by one: then it is its place. */
const covering = (pixels: number, placePixels: number) =>
  evenly(pixels - placePixels < 2 ? Math.round(placePixels) : pixels);

/**
 * The raster that a picture may be brought to before it is worked on, and nothing that is shown is lost: it fills its
 * place on the playback raster both ways. Null where it has to come whole: parts of it are cut out or moved over, or
 * its place is not smaller than itself.
 * @param item whose picture it is; null: a clip by itself, which fills the raster
 */
export function deviceRaster(item: Item | null, picture: Raster, raster: Raster): Raster | null {
  if (item?.source.kind === 'still') return null;
  const transform = item?.effects.find((effect) => effect.kind === 'transform' && effect.on);
  const { crop, place } =
    transform?.kind === 'transform' ? transform : { crop: wholePicture, place: wholePicture };
  if (crop.x !== 0 || crop.y !== 0 || crop.width !== 1 || crop.height !== 1) return null;
  const [placeWidth, placeHeight] = [raster.width * place.width, raster.height * place.height];
  const scale = Math.max(placeWidth / picture.width, placeHeight / picture.height);
  const width = covering(picture.width * scale, placeWidth);
  const height = covering(picture.height * scale, placeHeight);
  return width < picture.width && height < picture.height ? { width, height } : null;
}
