import { count, fixed, quantity } from '../format';
import { rateLabel, toNumber } from '../time/rational';
import { clipTimecode } from '../time/clipTimecode';
import { faultWords, type ClipFaultKind, type ClipFaults, type FaultWords } from './faults';
import { fileName } from './fileName';
import type { Format } from './format';
import type { FrameStructure } from './frameStructure';
import type { ClipIdentity } from './identity';

/** Something about a clip that matters when it is played. */
export interface ClipWarning {
  readonly kind:
    | 'variable-rate'
    | 'sparse-keys'
    | 'odd-raster'
    | 'missing-times'
    | 'duplicate-times'
    | 'index-at-end'
    | 'truncated'
    | 'gaps'
    | 'part-of'
    | 'may-go-on'
    | 'rate-assumed'
    | 'edit-list'
    | 'open-gop'
    | 'not-square'
    | 'rotated'
    | `faulty-${ClipFaultKind}`;
  /** A few words for tables. */
  readonly short: string;
  /** What it means and what to do. */
  readonly text: string;
}

const framesOf = (frames: number) => (frames === 1 ? '1 frame' : `${count(frames)} frames`);

/** Key frames further apart than this make every jump dear. */
const sparseSeconds = 2;

const warning = (kind: ClipWarning['kind'], short: string, text: string): ClipWarning => ({
  kind,
  short,
  text,
});
type Warnings = Generator<ClipWarning, void>;

/** What of the take is not in the clip. */
function* lacks(identity: ClipIdentity): Warnings {
  if (identity.missingFrames > 0)
    yield warning(
      'truncated',
      'cut short',
      `The last ${identity.missingFrames} frames that the container promises are not in the file. Copy it again from its source.`,
    );
  if (identity.gaps)
    yield warning(
      'gaps',
      `${framesOf(identity.gaps.frames)} missing`,
      `Missing between its frames: ${identity.gaps.words}. The frame before stands in for each, and is read again in its place. Copy or render what is missing and scan again.`,
    );
  if (identity.partOf)
    yield warning(
      'part-of',
      `part ${identity.partOf.part} of ${identity.partOf.parts}`,
      `The camera split this take: it is part ${identity.partOf.part} of ${identity.partOf.parts} of ${fileName(identity.partOf.path)}, which is listed and plays as one clip.`,
    );
  if (identity.mayGoOnIn !== undefined)
    yield warning(
      'may-go-on',
      'may go on',
      `It is as large as a file on a card gets, so the take may go on in ${fileName(identity.mayGoOnIn)}. Neither a clock nor a timecode proves that, so both stay clips of their own.`,
    );
}

/** What its times do not tell, or tell wrongly. */
function* times(format: Format, { timing, rateAssumed }: ClipIdentity): Warnings {
  if (rateAssumed)
    yield warning(
      'rate-assumed',
      'rate assumed',
      `Its files state no rate: ${rateLabel(format.rate)} frames a second is assumed. Set the rate on the clip's page.`,
    );
  if (timing.missing > 0)
    yield warning(
      'missing-times',
      'times missing',
      `${timing.missing} frames have no presentation time, so their order is a guess. Rewrap the clip.`,
    );
  if (timing.duplicate > 0)
    yield warning(
      'duplicate-times',
      'times twice',
      `${timing.duplicate} frames share their presentation time with another: a player shows only one of each.`,
    );
  if (!timing.constant)
    yield warning(
      'variable-rate',
      'variable rate',
      `Frames last ${fixed(timing.shortestMs, 1)} to ${quantity(timing.longestMs, 'ms', 1)}. On a timeline some are repeated or left out, and sound may drift. Convert it to a constant rate before cutting.`,
    );
}

/** What makes jumps and cuts dear. */
function* jumps(
  format: Format,
  structure: FrameStructure,
  frames: number,
  { edits }: ClipIdentity,
): Warnings {
  const longest = structure.intra ? 0 : (structure.keyInterval?.max ?? frames);
  const seconds = longest / toNumber(format.rate);
  if (seconds > sparseSeconds)
    yield warning(
      'sparse-keys',
      'sparse key frames',
      `Up to ${longest} frames (${quantity(seconds, 's', 1)}) lie between key frames: a jump may have to decode all of them. Scrub it from an intra rendition.`,
    );
  if (structure.openGop)
    yield warning(
      'open-gop',
      'open GOP',
      'Some frames before a key frame refer across it: a cut or jump there needs the group before it too.',
    );
  if (edits !== null)
    yield warning('edit-list', 'edit list', `${edits} Programs that ignore edit lists show other frames.`);
}

/** What others show otherwise, or refuse. */
function* pictures({ width, height }: Format, { pixelAspect, rotation }: ClipIdentity): Warnings {
  if (width % 2 !== 0 || height % 2 !== 0)
    yield warning(
      'odd-raster',
      'odd raster',
      `${width}x${height} has an odd side: chroma does not divide evenly, and many encoders and devices refuse it.`,
    );
  if (pixelAspect.num !== pixelAspect.den && pixelAspect.num > 0)
    yield warning(
      'not-square',
      'pixels not square',
      `Its pixels are ${pixelAspect.num}:${pixelAspect.den}: it must be stretched when shown.`,
    );
  if (rotation !== 0)
    yield warning(
      'rotated',
      `turned ${rotation}°`,
      `The file asks to be turned by ${rotation}° when shown. Programs differ in whether they do.`,
    );
}

/** What costs time before the first frame. */
function* opening({ indexAtEnd }: ClipIdentity): Warnings {
  if (indexAtEnd)
    yield warning(
      'index-at-end',
      'index at end',
      'The index lies behind the media: over a network, opening the clip costs a jump to its end before the first frame.',
    );
}

/**
 * What to know before playing or cutting a clip, the gravest first.
 * @param faulty frames that are not whole, in words; see `faultWords`
 */
export function clipWarnings(
  format: Format,
  structure: FrameStructure,
  frames: number,
  identity: ClipIdentity,
  faulty: readonly FaultWords[] = [],
): ClipWarning[] {
  return [
    ...lacks(identity),
    ...faulty.map(({ kind, short, text }) => warning(`faulty-${kind}`, short, text)),
    ...times(format, identity),
    ...jumps(format, structure, frames, identity),
    ...pictures(format, identity),
    ...opening(identity),
  ];
}

/** What is known of a clip that warnings are made of; null where it could not be read. */
export interface Known {
  readonly format: Format | null;
  readonly structure: FrameStructure | null;
  readonly frames: number | null;
  readonly identity: ClipIdentity | null;
  readonly faults: ClipFaults | null;
  readonly startTimecode: string | null;
}

/** The warnings of a clip of which all is known, with its faulty frames by their timecodes; none of any other. */
export function warningsOf({
  format,
  structure,
  frames,
  identity,
  faults,
  startTimecode,
}: Known): ClipWarning[] {
  if (!format || !structure || frames === null || !identity) return [];
  const faulty = faults ? faultWords(faults, clipTimecode(startTimecode, format.rate)) : [];
  return clipWarnings(format, structure, frames, identity, faulty);
}
