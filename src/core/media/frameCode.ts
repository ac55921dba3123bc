/**
 * The machine-readable frame number in demo pictures: one row of 32 square
 * blocks, white for 1 and black for 0. Bits 31 to 8 are the frame number, bits
 * 7 to 0 a check byte, so that a torn, blank or unrelated picture is not
 * mistaken for a frame. Position and size follow from the picture's width, so
 * the code survives scaling.
 */
export const frameCodeBits = 32;
export const highestFrameNumber = 0xffffff;

/** Placement in a picture of the given width and height, in pixels and fractions of them. */
export function frameCodeLayout(width: number, height: number): { left: number; top: number; block: number } {
  const block = width / 60;
  return { left: block * 2, top: height - block * 3, block };
}

/** Check byte over the three bytes of the number (CRC-8, polynomial 0x07, start 0x55). */
function checkByte(frameNumber: number): number {
  let crc = 0x55;
  for (const shift of [16, 8, 0]) {
    crc ^= (frameNumber >> shift) & 0xff;
    for (let bit = 0; bit < 8; bit++) crc = crc & 0x80 ? ((crc << 1) ^ 0x07) & 0xff : (crc << 1) & 0xff;
  }
  return crc;
}

/**
 * The blocks of a frame number, most significant first.
 * @throws RangeError when the number does not fit 24 bits
 */
export function encodeFrameCode(frameNumber: number): boolean[] {
  if (!Number.isInteger(frameNumber) || frameNumber < 0 || frameNumber > highestFrameNumber) {
    throw new RangeError(`A frame code holds 0 to ${highestFrameNumber}, got ${frameNumber}`);
  }
  const word = ((frameNumber << 8) | checkByte(frameNumber)) >>> 0;
  return Array.from({ length: frameCodeBits }, (_, bit) => ((word >>> (frameCodeBits - 1 - bit)) & 1) === 1);
}

/**
 * Reads the frame number off a picture, or null when there is no valid code.
 * @param luma brightness 0 to 255 at pixel (x, y)
 */
export function readFrameCode(
  width: number,
  height: number,
  luma: (x: number, y: number) => number,
): number | null {
  const { left, top, block } = frameCodeLayout(width, height);
  let word = 0;
  for (let bit = 0; bit < frameCodeBits; bit++) {
    word =
      ((word << 1) |
        (luma(Math.floor(left + (bit + 0.5) * block), Math.floor(top + block / 2)) > 128 ? 1 : 0)) >>>
      0;
  }
  const frameNumber = word >>> 8;
  return (word & 0xff) === checkByte(frameNumber) ? frameNumber : null;
}
