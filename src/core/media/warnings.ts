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
  const { timing } = identity;
  const found: ClipWarning[] = [];
  const add = (kind: ClipWarning['kind'], short: string, text: string) => found.push({ kind, short, text });
  if (identity.missingFrames > 0)
    add(
      'truncated',
      'cut short',
      `The last ${identity.missingFrames} frames that the container promises are not in the file. Copy it again from its source.`,
    );
  if (identity.gaps)
    add(
      'gaps',
      `${framesOf(identity.gaps.frames)} missing`,
      `Missing between its frames: ${identity.gaps.words}. The frame before stands in for each, and is read again in its place. Copy or render what is missing and scan again.`,
    );
  if (identity.partOf)
    add(
      'part-of',
      `part ${identity.partOf.part} of ${identity.partOf.parts}`,
      `The camera split this take: it is part ${identity.partOf.part} of ${identity.partOf.parts} of ${fileName(identity.partOf.path)}, which is listed and plays as one clip.`,
    );
  if (identity.mayGoOnIn !== undefined)
    add(
      'may-go-on',
      'may go on',
      `It is as large as a file on a card gets, so the take may go on in ${fileName(identity.mayGoOnIn)}. Neither a clock nor a timecode proves that, so both stay clips of their own.`,
    );
  for (const { kind, short, text } of faulty) add(`faulty-${kind}`, short, text);
  if (identity.rateAssumed)
    add(
      'rate-assumed',
      'rate assumed',
      `Its files state no rate: ${rateLabel(format.rate)} frames a second is assumed. Set the rate on the clip's page.`,
    );
  if (timing.missing > 0)
    add(
      'missing-times',
      'times missing',
      `${timing.missing} frames have no presentation time, so their order is a guess. Rewrap the clip.`,
    );
  if (timing.duplicate > 0)
    add(
      'duplicate-times',
      'times twice',
      `${timing.duplicate} frames share their presentation time with another: a player shows only one of each.`,
    );
  if (!timing.constant)
    add(
      'variable-rate',
      'variable rate',
      `Frames last ${fixed(timing.shortestMs, 1)} to ${quantity(timing.longestMs, 'ms', 1)}. On a timeline some are repeated or left out, and sound may drift. Convert it to a constant rate before cutting.`,
    );
  const longest = structure.intra ? 0 : (structure.keyInterval?.max ?? frames);
  const seconds = longest / toNumber(format.rate);
  if (seconds > sparseSeconds)
    add(
      'sparse-keys',
      'sparse key frames',
      `Up to ${longest} frames (${quantity(seconds, 's', 1)}) lie between key frames: a jump may have to decode all of them. Scrub it from an intra rendition.`,
    );
  if (structure.openGop)
    add(
      'open-gop',
      'open GOP',
      'Some frames before a key frame refer across it: a cut or jump there needs the group before it too.',
    );
  if (identity.edits !== null)
    add('edit-list', 'edit list', `${identity.edits} Programs that ignore edit lists show other frames.`);
  if (format.width % 2 !== 0 || format.height % 2 !== 0)
    add(
      'odd-raster',
      'odd raster',
      `${format.width}x${format.height} has an odd side: chroma does not divide evenly, and many encoders and devices refuse it.`,
    );
  if (identity.pixelAspect.num !== identity.pixelAspect.den && identity.pixelAspect.num > 0)
    add(
      'not-square',
      'pixels not square',
      `Its pixels are ${identity.pixelAspect.num}:${identity.pixelAspect.den}: it must be stretched when shown.`,
    );
  if (identity.rotation !== 0)
    add(
      'rotated',
      `turned ${identity.rotation}°`,
      `The file asks to be turned by ${identity.rotation}° when shown. Programs differ in whether they do.`,
    );
  if (identity.indexAtEnd)
    add(
      'index-at-end',
      'index at end',
      'The index lies behind the media: over a network, opening the clip costs a jump to its end before the first frame.',
    );
  return found;
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
