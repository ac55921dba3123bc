import { gainAt, sampleAt, soundRate, type SoundPart } from '@/core/tasks/soundPlan';
import type { Rational } from '@/core/time/rational';
import { monotonicUs } from '../clock';
import { channels } from '../codec/soundDecoder';
import { TrackSound, type SoundCosts, type SoundTrack } from './trackSound';

/** Adds a stretch of a part's sound to a mix, as loud as the part is there. @param first sample of the part that is the first of it @param to first value of the mix */
export function mixInto(
  mix: Float32Array,
  taken: Float32Array,
  part: SoundPart,
  first: number,
  to: number,
): void {
  for (let at = 0; at < taken.length; at += channels) {
    const gain = gainAt(part, first + at / channels);
    for (let channel = 0; channel < channels; channel++)
      mix[to + at + channel] = (mix[to + at + channel] as number) + (taken[at + channel] as number) * gain;
  }
}

/** Keeps values within -1 to 1, as what plays them does. */
export function limit(mix: Float32Array): void {
  for (let at = 0; at < mix.length; at++) mix[at] = Math.max(-1, Math.min(1, mix[at] as number));
}

/** Works out the sound of a run slot by slot: reads, decodes, resamples and mixes what sounds then, on the thread that asks. */
export class SlotSound {
  private readonly open = new Map<SoundPart, { readonly sound: TrackSound; next: number }>();
  private readonly byStart: readonly SoundPart[];
  private nextPart = 0;
  private playing: SoundPart[] = [];

  /** @param trackOf a clip's sound, opened; null where it has none */
  constructor(
    parts: readonly SoundPart[],
    private readonly rate: Rational,
    private readonly trackOf: (media: string) => SoundTrack | null,
  ) {
    this.byStart = [...parts].sort((a, b) => a.at - b.at);
  }

  /**
   * The sound of a slot; each slot may be left out, and none comes back.
   * @returns both channels by turns, within -1 to 1, and what it took
   * @throws where it cannot be read
   */
  slot(slot: number): { readonly mix: Float32Array } & Readonly<SoundCosts> {
    const costs: SoundCosts = { readUs: 0, decodeUs: 0, mixUs: 0, bytes: 0, isBroken: false };
    const [begin, end] = [sampleAt(slot, this.rate), sampleAt(slot + 1, this.rate)];
    const mix = new Float32Array((end - begin) * channels);
    for (let part = this.byStart[this.nextPart]; part && part.at < end; part = this.byStart[++this.nextPart])
      this.playing.push(part);
    for (const part of this.playing) {
      const [first, last] = [Math.max(begin, part.at), Math.min(end, part.at + part.samples)];
      if (last <= first) continue;
      const taken = this.take(part, first - part.at, last - first, costs);
      if (!taken) continue;
      const begun = monotonicUs();
      mixInto(mix, taken, part, first - part.at, (first - begin) * channels);
      costs.mixUs += monotonicUs() - begun;
    }
    const begun = monotonicUs();
    limit(mix);
    costs.mixUs += monotonicUs() - begun;
    this.playing = this.playing.filter((part) => {
      if (part.at + part.samples > end) return true;
      this.closePart(part);
      return false;
    });
    return { mix, ...costs };
  }

  private take(part: SoundPart, first: number, samples: number, costs: SoundCosts): Float32Array | null {
    let open = this.open.get(part);
    if (open && open.next !== first) {
      this.closePart(part);
      open = undefined;
    }
    if (!open) {
      const begun = monotonicUs();
      const track = this.trackOf(part.media);
      if (!track) return null;
      const from = part.fromSeconds + first / soundRate;
      open = { sound: new TrackSound(track, from, part.fromSeconds + part.samples / soundRate), next: first };
      this.open.set(part, open);
      costs.decodeUs += monotonicUs() - begun;
    }
    open.next = first + samples;
    return open.sound.take(samples, costs);
  }

  private closePart(part: SoundPart): void {
    this.open.get(part)?.sound.close();
    this.open.delete(part);
  }

  close(): void {
    for (const part of [...this.open.keys()]) this.closePart(part);
  }
}
