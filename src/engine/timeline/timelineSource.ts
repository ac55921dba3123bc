import type { Frame, Packet } from 'node-av/lib';
import { readFrameCode } from '@/core/media/frameCode';
import { isKey, type PacketTable } from '@/core/media/packetTable';
import type { CoursePlan, Feed } from '@/core/timeline/course';
import { offsetsOfUses } from '@/core/timeline/parts';
import { monotonicUs } from '../clock';
import { EngineError } from '../errors';
import { lumaReader } from '../media/luma';
import type { CodecSetup } from '../media/probe';
import { packetOf } from '../playback/decoder';
import type { PlaySource } from '../playback/playSource';
import type { ProcessedPicture } from '../playback/processor';
import type { TraceRecorder } from '../playback/traceRecorder';
import type { MediaReader } from '../storage/standIn';
import { FeedDecoder } from './feedDecoder';
import type { SlotProcessor } from './slotProcessor';

/** A clip that a timeline uses, ready to be read. */
export interface OpenMedia {
  readonly setup: CodecSetup;
  readonly rate: { readonly num: number; readonly den: number };
  readonly packets: PacketTable;
  readonly intra: boolean;
  /** A reader for one feed: each reads on its own. */
  readonly openReader: () => Promise<MediaReader & { close: () => Promise<void> }>;
}

interface FeedPackets { readonly feed: number; readonly step: number; readonly packets: readonly Packet[] }
/** What reading a slot gives: packets per feed, and feeds that come to their end before it. */
export interface SlotPackets { readonly slot: number; readonly parts: readonly FeedPackets[]; readonly finish: readonly number[] }
/** Frames per layer of a slot; null where there is none. */
export type SlotFrames = readonly (Frame | null)[];

interface OpenFeed { readonly decoder: FeedDecoder; reader: (MediaReader & { close: () => Promise<void> }) | null; }

/** Slots before its first use at which a feed's file and decoder are opened. */
const openAhead = 36;

/** A run over a timeline: every slot reads, decodes and processes all its layers. */
export class TimelineSource implements PlaySource<SlotPackets, SlotFrames> {
  private readonly open = new Map<number, OpenFeed>();
  private readonly pending: { slot: number; parts: readonly FeedPackets[] }[] = [];
  private readonly byFirst: readonly number[];
  private nextToOpen = 0;
  /** Feeds still read from, in the order of their end. */
  private readonly reading = new Set<number>();
  private readonly coded = new Map<string, boolean>();
  private readonly shown: Int32Array;
  private readonly firstUse: Uint32Array;
  /** Time of each use of a feed in the order of the plan's uses, µs; NaN where it never came to it. */
  readonly useTimes: { readonly readUs: Float32Array; readonly decodeUs: Float32Array };
  frameCode = false;

  /** @param processor null: decode only */
  constructor(private readonly plan: CoursePlan, private readonly media: ReadonlyMap<string, OpenMedia>, private readonly processor: SlotProcessor | null, private readonly recorder: TraceRecorder, private readonly threads: number, private readonly lowDelay: boolean) {
    this.byFirst = plan.feeds.map((_, index) => index).sort((a, b) => (plan.feeds[a] as Feed).first - (plan.feeds[b] as Feed).first);
    this.shown = expectedFrames(plan);
    this.firstUse = offsetsOfUses(plan);
    const uses = this.firstUse[plan.slotCount] ?? 0;
    this.useTimes = { readUs: new Float32Array(uses).fill(Number.NaN), decodeUs: new Float32Array(uses).fill(Number.NaN) };
  }

  private feed(index: number): Feed {
    return this.plan.feeds[index] as Feed;
  }

  /** Opens feeds that begin soon, without waiting for them. */
  private openSoon(slot: number): void {
    for (; this.nextToOpen < this.byFirst.length; this.nextToOpen++) {
      const index = this.byFirst[this.nextToOpen] as number;
      if (this.feed(index).first > slot + openAhead) return;
      void this.openFeed(index).decoder.open().catch(() => undefined);
    }
  }

  /** Opens the decoders that the first slots want. @throws EngineError when one refuses its clip */
  async openFirst(): Promise<void> {
    await Promise.all(this.byFirst.filter((index) => this.feed(index).first <= openAhead).map((index) => this.openFeed(index).decoder.open()));
  }

  private openFeed(index: number): OpenFeed {
    const there = this.open.get(index);
    if (there) return there;
    const feed = this.feed(index);
    const media = this.mediaOf(feed);
    const decoder = new FeedDecoder(feed, media.setup, { threads: this.threads, lowDelay: this.lowDelay && media.intra, rate: media.rate });
    const opened: OpenFeed = { decoder, reader: null };
    this.open.set(index, opened);
    this.reading.add(index);
    return opened;
  }

  private mediaOf(feed: Feed): OpenMedia {
    const media = this.media.get(feed.media);
    if (!media) throw new EngineError('A clip of this timeline is not at hand. Relink its media and start again.');
    return media;
  }

  async read(slot: number): Promise<SlotPackets> {
    this.openSoon(slot);
    const parts = await Promise.all((this.plan.uses[slot] ?? []).map(async ({ feed: index, step }, at): Promise<FeedPackets> => {
      const begun = monotonicUs();
      const packets = await this.readStep(index, step);
      this.useTimes.readUs[(this.firstUse[slot] as number) + at] = monotonicUs() - begun;
      return { feed: index, step, packets };
    }));
    const finish = [...this.reading].filter((index) => this.feed(index).last < slot);
    finish.forEach((index) => this.reading.delete(index));
    return { slot, parts, finish };
  }

  private async readStep(index: number, step: number): Promise<Packet[]> {
    const feed = this.feed(index);
    const opened = this.openFeed(index);
    const { packets } = this.mediaOf(feed);
    const { rows, from } = feed.plan;
    const due = rows.subarray(from[step], from[step + 1]);
    const read: Packet[] = [];
    for (const row of due) {
      opened.reader ??= await this.mediaOf(feed).openReader();
      const data = await opened.reader.read(packets.offset[row] as number, packets.size[row] as number);
      read.push(packetOf(data, packets.slot[row] as number, isKey(packets, row)));
    }
    return read;
  }

  discard({ parts }: SlotPackets): void {
    for (const { packets } of parts) for (const packet of packets) packet.free();
  }

  /** Decoders of a slot's feeds work side by side. */
  async send(read: SlotPackets | null): Promise<boolean> {
    if (read === null) {
      await Promise.all([...this.open.values()].flatMap(({ decoder }) => (decoder.finished ? [] : [decoder.finish()])));
      return true;
    }
    await Promise.all([
      ...read.finish.map((index) => this.openFeed(index).decoder.finish()),
      ...read.parts.map(async ({ feed, step, packets }, at) => {
        const { plan } = this.feed(feed);
        const begun = monotonicUs();
        await this.openFeed(feed).decoder.decode(packets, plan.reset[step] === 1, plan.drain[step] === 1);
        this.useTimes.decodeUs[(this.firstUse[read.slot] as number) + at] = monotonicUs() - begun;
      }),
    ]);
    this.pending.push({ slot: read.slot, parts: read.parts });
    return true;
  }

  async receive(): Promise<{ slot: number; decoded: SlotFrames } | null> {
    const next = this.pending[0];
    if (!next || !next.parts.every(({ feed, step }) => this.openFeed(feed).decoder.isSettled(step))) return null;
    this.pending.shift();
    const uses = this.plan.uses[next.slot] ?? [];
    const frames: (Frame | null)[] = (this.plan.contents[next.slot]?.layers ?? []).map(() => null);
    for (const { feed: index, step, layer } of uses) {
      const frame = this.openFeed(index).decoder.take(step);
      if (layer >= 0) frames[layer] = frame;
      else frame?.free();
      if (step === this.feed(index).plan.frames.length - 1) await this.closeFeed(index);
    }
    return { slot: next.slot, decoded: frames };
  }

  private async closeFeed(index: number): Promise<void> {
    const opened = this.open.get(index);
    opened?.decoder.close();
    await opened?.reader?.close();
    if (opened) opened.reader = null;
  }

  async process(slot: number, frames: SlotFrames): Promise<ProcessedPicture | null> {
    this.prove(slot, frames);
    return this.processor ? this.processor.process(this.plan.contents[slot]?.layers ?? [], frames) : null;
  }

  /** Compares the number in each layer's picture with the one that was asked for. */
  private prove(slot: number, frames: SlotFrames): void {
    const layers = this.plan.contents[slot]?.layers ?? [];
    layers.forEach(({ media, frame: wanted, item }, at) => {
      if (media === null || !this.media.has(media)) return;
      const frame = frames[at] ?? null;
      if (!frame) { this.shown[slot] = -1; return; }
      if (this.coded.get(media) === false || item.source.kind === 'still') return;
      const luma = lumaReader(frame);
      const code = luma && readFrameCode(frame.width, frame.height, luma);
      if (!this.coded.has(media)) this.coded.set(media, code === wanted);
      if (!this.coded.get(media)) return;
      this.frameCode = this.recorder.frameCode = true;
      if (code !== wanted) this.shown[slot] = code === null ? -1 : code;
    });
    if (frames.includes(null) && this.shown[slot] === -1) this.recorder.frameCode = true;
  }

  drop(frames: SlotFrames): void {
    for (const frame of frames) frame?.free();
  }

  release(picture: ProcessedPicture): void {
    this.processor?.release(picture);
  }

  shownFrame(slot: number): number {
    return this.shown[slot] as number;
  }

  /** Of the decoders used, in words. */
  get decoders(): { name: string; threads: number; threadKind: string }[] {
    return [...this.open.values()].flatMap(({ decoder }) => decoder.threads ?? []);
  }

  async close(): Promise<void> {
    // Decoders that are opened ahead may still be on their way.
    await Promise.all([...this.open.values()].map(({ decoder }) => decoder.open().catch(() => undefined)));
    await Promise.all([...this.open.keys()].map((index) => this.closeFeed(index)));
    this.processor?.close();
  }
}

/** The frame number of each slot's topmost layer with media; -1 where there is none. */
export function expectedFrames(plan: CoursePlan): Int32Array {
  return Int32Array.from(plan.contents, ({ layers }) => layers.findLast(({ media }) => media !== null)?.frame ?? -1);
}
