import { isKept } from '../../edge/strict';
import { rational, type Rational } from '../../time/rational';
import { shortName } from '../../timeline/model';
import { EdlError } from './error';

/** What comments behind an event say of one of its sides. */
export interface EdlSide {
  clip: string | null;
  /** A reel's whole name, where the list's eight characters do not hold it. */
  reel: string | null;
  /** Where it is not the list's. */
  rate: Rational | null;
}

export type EdlKind = 'cut' | 'dissolve' | 'key-background' | 'key';

export interface EdlEvent {
  readonly line: number;
  readonly number: string;
  readonly reel: string;
  /** Picture track, from 1. */
  readonly track: number;
  readonly kind: EdlKind;
  readonly transitionFrames: number;
  /** What the FCM line above it says. */
  readonly dropFrame: boolean;
  readonly times: readonly [sourceIn: string, sourceOut: string, recordIn: string, recordOut: string];
  /** Frames a second of its source, as a motion effect writes them. */
  motion: string | null;
  readonly from: EdlSide;
  readonly to: EdlSide;
}

/** An edit list as it is written. */
export interface EdlList {
  readonly title: string;
  readonly events: readonly EdlEvent[];
  /** Of comments that this application writes: where slot 0 lies, the list's rate and picture. */
  readonly start: string | null;
  readonly rate: Rational | null;
  readonly raster: { readonly width: number; readonly height: number } | null;
}

const timecode = /^\d\d[:;.,]\d\d[:;.,]\d\d[:;.,]\d{2,3}$/;
/** Channels: picture, sound, both, none, and what joins them. */
const channels = /^(?:B|NONE|[AV](?:[AV\d]|[/,+&](?=[AV]))*)$/i;
const transition = /^(?:C|D|W\d{1,3}|K|KB|KO)$/i;
/** Most events of a list; the longest films have some thousands. */
const mostEvents = 50_000;
/** Lines that forms of the list have and that say nothing of the picture. */
const passedOver = /^(?:>>>|SPLIT:|M1\b|AUD\b|EFFECTS NAME|B_W|FOCUS|MASTER)/i;

/** Reads the lines of a CMX 3600 list. @param notes what was read and cannot be kept is added to them @throws EdlError */
export function readEvents(text: string, notes: string[]): EdlList {
  const reading = new Reading(notes);
  text
    .replace(/^\uFEFF/, '')
    .split(/\r\n|\n|\r/)
    .forEach((raw, index) => reading.line(raw, index + 1));
  return reading;
}

class Reading implements EdlList {
  readonly events: EdlEvent[] = [];
  title = 'Edit list';
  start: string | null = null;
  rate: Rational | null = null;
  raster: { readonly width: number; readonly height: number } | null = null;
  private dropFrame = false;
  /** The last event of each reel. */
  private readonly ofReel = new Map<string, EdlEvent>();

  constructor(private readonly notes: string[]) {}

  line(raw: string, line: number): void {
    if (!isKept(raw)) throw new EdlError(line, 'no-text');
    const content = raw.trim();
    if (content === '') return;
    if (/^TITLE:/i.test(content)) this.title = shortName(content.slice(6).trim() || this.title, this.notes);
    else if (/^FCM:/i.test(content)) this.countMode(content, line);
    else if (content.startsWith('*')) this.comment(content);
    else if (/^M2\s/i.test(content)) this.motion(content, line);
    else if (/^\d/.test(content)) this.event(content, line);
    else if (!passedOver.test(content)) this.leftOut(content, line);
  }

  private leftOut(content: string, line: number): void {
    this.notes.push(`Line ${line}: "${content.slice(0, 60)}" is not known and was left out.`);
  }

  private countMode(content: string, line: number): void {
    const mode = content.slice(4).trim();
    if (!/^(NON[- ]?)?DROP[- ]?FRAME$/i.test(mode)) throw new EdlError(line, 'frame-count-mode', { content });
    this.dropFrame = !/^NON/i.test(mode);
  }

  private motion(content: string, line: number): void {
    const words = content.split(/\s+/);
    const [at = '', speed = ''] = [words.at(-1), words.at(-2)];
    if (words.length < 4 || !timecode.test(at) || !/^[+-]?\d{1,6}(?:\.\d{1,6})?$/.test(speed)) {
      this.leftOut(content, line);
      return;
    }
    const reel = words.slice(1, -2).join(' ');
    const last = this.events.at(-1);
    if (!last) throw new EdlError(line, 'motion-before-event');
    // Both sides of a dissolve may come from one reel: where it enters tells them apart.
    const entered = this.events
      .slice(-2)
      .findLast((event) => event.number === last.number && event.reel === reel && event.times[0] === at);
    (entered ?? this.ofReel.get(reel) ?? last).motion = speed;
  }

  /** What comments say; those of other meaning stay unread. */
  private comment(content: string): void {
    const [, name = '', value = ''] = /^\*\s*([A-Z ]{1,40}):\s*(.*)$/i.exec(content) ?? [];
    const said = value.trim();
    const last = this.events.at(-1);
    switch (name.trim().toUpperCase()) {
      case 'START TIMECODE':
        if (timecode.test(said)) this.start = said;
        break;
      case 'FRAME RATE':
        this.rate = rateOf(said);
        break;
      case 'RASTER': {
        const [, width, height] = /^(\d{1,5})x(\d{1,5})$/.exec(said) ?? [];
        if (Number(width) > 0 && Number(height) > 0)
          this.raster = { width: Number(width), height: Number(height) };
        break;
      }
      case 'SOURCE FILE':
        // The file's name, where no clip's name is said.
        if (last) last.from.clip ??= said.split(/[\\/]/).at(-1) || null;
        break;
      default:
        if (last) sideSaid(last, name.trim().toUpperCase(), said);
    }
  }

  private event(content: string, line: number): void {
    const words = content.split(/\s+/);
    const times = words.slice(-4);
    // A reel's name may have spaces in it: the channel is the word before the transition.
    const at = words.findIndex(
      (word, index) => index >= 2 && channels.test(word) && transition.test(words[index + 1] ?? ''),
    );
    const [number = ''] = words;
    const kind =
      at < 0
        ? null
        : kindOf(
            words
              .slice(at + 1, -4)
              .join(' ')
              .toUpperCase(),
          );
    if (!/^\d{1,6}$/.test(number) || kind === null || !times.every((word) => timecode.test(word)))
      throw new EdlError(line, 'no-event', { content: content.slice(0, 60) });
    const channel = (words[at] as string).toUpperCase();
    const reel = words.slice(1, at).join(' ');
    if (channel !== 'B' && !channel.includes('V')) {
      this.notes.push(
        `Line ${line}: event ${number} is for ${channel}, not for the picture, and was left out.`,
      );
      return;
    }
    const { isWipe, frames } = kind;
    if (kind.kind === 'dissolve' && frames === null)
      throw new EdlError(line, isWipe ? 'wipe-without-length' : 'dissolve-without-length', { number });
    if (isWipe)
      this.notes.push(`Line ${line}: the wipe of event ${number} became a dissolve of the same length.`);
    if (this.events.length >= mostEvents) throw new EdlError(line, 'too-many-events', { most: mostEvents });
    const event: EdlEvent = {
      line,
      number,
      reel,
      track: Math.max(1, Number(/V(\d+)/.exec(channel)?.[1] ?? 1)),
      kind: kind.kind,
      transitionFrames: kind.kind === 'dissolve' ? (frames ?? 0) : 0,
      dropFrame: this.dropFrame,
      times: times as unknown as EdlEvent['times'],
      motion: null,
      from: { clip: null, reel: null, rate: null },
      to: { clip: null, reel: null, rate: null },
    };
    this.events.push(event);
    this.ofReel.set(reel, event);
  }
}

/** What a comment says of one side of an event. */
function sideSaid({ from, to }: EdlEvent, name: string, said: string): void {
  const [, side, what] = /^(FROM|TO) (CLIP NAME|REEL NAME|CLIP RATE)$/.exec(name) ?? [];
  if (side === undefined || said === '') return;
  const of = side === 'FROM' ? from : to;
  if (what === 'CLIP NAME') of.clip = said;
  else if (what === 'REEL NAME') of.reel = said;
  else of.rate = rateOf(said);
}

/** A transition as it is written between channel and timecodes; null where it is none. */
function kindOf(text: string): { kind: EdlKind; isWipe: boolean; frames: number | null } | null {
  const [, letter, frames] =
    /^(C|D|W\d{1,3}|K ?B|K ?O|K)(?: \(F\))?(?: (\d{1,4}))?(?: \(F\))?$/.exec(text) ?? [];
  if (letter === undefined) return null;
  const length = frames === undefined ? null : Number(frames);
  if (letter === 'C') return { kind: 'cut', isWipe: false, frames: null };
  if (letter === 'D' || letter.startsWith('W'))
    return { kind: 'dissolve', isWipe: letter !== 'D', frames: length };
  return { kind: /^K ?B$/.test(letter) ? 'key-background' : 'key', isWipe: false, frames: length };
}

/** A rate as `24`, or exact as `24000/1001`; null where it is none that anything has. */
function rateOf(text: string): Rational | null {
  const [, num, den = '1'] = /^(\d{1,7})(?:\/(\d{1,7}))?$/.exec(text) ?? [];
  if (num === undefined || Number(num) < 1 || Number(den) < 1) return null;
  const rate = rational(Number(num), Number(den));
  return rate.num / rate.den <= 1_000 && rate.den / rate.num <= 1 ? rate : null;
}
