import type { Frame, Packet } from 'node-av/lib';
import { rangesOf, type RunFaults } from '@/core/media/faults';
import { wholeUnit, type FeedRows, type SlotRows } from '@/core/playback/backlog';
import type { CourseFeed, CoursePlan, FeedUse } from '@/core/timeline/course';
import type { Raster } from '@/core/timeline/deviceRaster';
import { offsetsOfUses } from '@/core/timeline/parts';
import { monotonicUs } from '../clock';
import type { OpenDecoder } from '../codec/decoder';
import { RunDevices } from '../codec/runDevices';
import { EngineError } from '../errors';
import type { BytesReader } from '../media/plainReader';
import { FeedDecoder } from '../codec/feedDecoder';
import { packetOfRow, type WatchThreads } from '../codec/decoder';
import { clipMedia, type OpenMedia } from '../codec/openMedia';
import type { PlaySource, ShownFrame } from './playSource';
import type { ProcessedPicture } from '../codec/processor';

/** Frames per layer of a slot; null where there is none. */
export type SlotFrames = readonly (Frame | null)[];

/** What becomes of a slot's decoded frames. */
export interface SlotFinisher {
  /** The slot's picture; null when the run processes nothing. */
  process(slot: number, frames: SlotFrames): Promise<ProcessedPicture | null>;
  release(picture: ProcessedPicture): void;
  /** See `PlaySource`. */
  shownFrame(slot: number, picture: ProcessedPicture | null): ShownFrame;
  readonly frameCode: boolean;
  /** Sets up what the slot will need, beside other work. */
  prepare(slot: number, frames: SlotFrames): void;
  close(): Promise<void>;
}

interface OpenFeed {
  readonly decoder: FeedDecoder;
  reader: BytesReader | null;
  /** Packets that were read and are neither decoded nor given up, by their row. */
  readonly packets: Map<number, Packet>;
}

/** Slots before its first use at which a feed's file and decoder are opened. */
const openAhead = 36;

export interface FeedSourceOptions {
  readonly mediaOf: (feed: CourseFeed) => OpenMedia;
  readonly finisher: SlotFinisher;
  /** Decoder threads; 0: one per core. */
  readonly threads: number;
  /** Prefer threads within a frame for media whose frames stand alone. */
  readonly lowDelay: boolean;
  readonly watchThreads?: WatchThreads | undefined;
  /** What decodes the feeds; absent: the processor alone. */
  readonly devices?: RunDevices | undefined;
  /** The raster to which a device that scales brings a feed's pictures; null, or absent: whole. */
  readonly rasterOf?: (feed: CourseFeed) => Raster | null;
}

/** A run over one or several clips: every slot reads and decodes what its feeds want. */
export class FeedSource implements PlaySource<SlotFrames> {
  private readonly open = new Map<number, OpenFeed>();
  /** Slots handed to the decoders whose frames have not been taken. */
  private readonly pending: number[] = [];
  private readonly byFirst: readonly number[];
  private nextToOpen = 0;
  private hasDecoded = false;
  private hasRefused = false;
  private readonly firstUse: Uint32Array;
  /** How each feed's decoder is opened. */
  private readonly openDecoder: readonly OpenDecoder[];
  /** Time of each use of a feed in the order of the plan's uses, µs; NaN where it never came to it. */
  readonly useTimes: { readonly readUs: Float32Array; readonly decodeUs: Float32Array };

  constructor(
    private readonly plan: Pick<CoursePlan, 'slotCount' | 'feeds' | 'uses' | 'graph'>,
    private readonly options: FeedSourceOptions,
  ) {
    this.byFirst = plan.feeds
      .map((_, index) => index)
      .sort((a, b) => this.feed(a).first - this.feed(b).first);
    // Feeds draw their devices in the order of their first uses.
    const devices = options.devices ?? RunDevices.software();
    const openDecoder: OpenDecoder[] = [];
    for (const index of this.byFirst) openDecoder[index] = this.streamOf(devices, this.feed(index));
    this.openDecoder = openDecoder;
    this.firstUse = offsetsOfUses(plan);
    const uses = this.firstUse[plan.slotCount] ?? 0;
    this.useTimes = {
      readUs: new Float32Array(uses).fill(Number.NaN),
      decodeUs: new Float32Array(uses).fill(Number.NaN),
    };
  }

  private feed(index: number): CourseFeed {
    return this.plan.feeds[index] as CourseFeed;
  }

  private streamOf(devices: RunDevices, feed: CourseFeed): OpenDecoder {
    const { key, itemName: item, trackIndex: track, media } = feed;
    const { mediaOf, rasterOf } = this.options;
    return devices.stream(key, { item, track }, media, mediaOf(feed), rasterOf?.(feed) ?? null);
  }

  /** Opens feeds that begin soon, without waiting for them. */
  private openSoon(slot: number): void {
    for (; this.nextToOpen < this.byFirst.length; this.nextToOpen++) {
      const index = this.byFirst[this.nextToOpen] as number;
      if (this.feed(index).first > slot + openAhead) return;
      void this.openFeed(index)
        .decoder.open()
        .catch(() => undefined);
    }
  }

  /** Opens the decoders that the first slots want. @throws EngineError when none of the run opens: nothing at all can be decoded */
  async openFirst(): Promise<void> {
    const first = this.byFirst.filter((index) => this.feed(index).first <= openAhead);
    const outcomes = await Promise.allSettled(first.map((index) => this.openFeed(index).decoder.open()));
    const refused = outcomes.filter((outcome) => outcome.status === 'rejected');
    const [why] = refused;
    if (why && refused.length === this.plan.feeds.length) throw why.reason;
  }

  private openFeed(index: number): OpenFeed {
    const there = this.open.get(index);
    if (there) return there;
    const feed = this.feed(index);
    const media = this.options.mediaOf(feed);
    const { threads, lowDelay, watchThreads } = this.options;
    const decoder = new FeedDecoder(
      feed.plan,
      () =>
        (this.openDecoder[index] as OpenDecoder)({
          threads,
          lowDelay: lowDelay && media.intra,
          watchThreads,
        }),
      media.faults,
    );
    const opened: OpenFeed = { decoder, reader: null, packets: new Map() };
    this.open.set(index, opened);
    return opened;
  }

  private rowsOf({ slot, feeds }: SlotRows): readonly FeedRows[] {
    return feeds ?? wholeUnit(this.plan.graph, slot);
  }

  async read(rows: SlotRows): Promise<void> {
    this.openSoon(rows.slot);
    await Promise.all(
      this.rowsOf(rows).map(async ({ feed, rows: wanted }, at) => {
        const begun = monotonicUs();
        if (wanted.length > 0) await this.readRows(feed, wanted);
        this.useTimes.readUs[(this.firstUse[rows.slot] as number) + at] = monotonicUs() - begun;
      }),
    );
  }

  private async readRows(index: number, rows: readonly number[]): Promise<void> {
    const opened = this.openFeed(index);
    const media = this.options.mediaOf(this.feed(index));
    const { packets } = media;
    for (const row of rows) {
      opened.reader ??= await media.openReader();
      const data = await opened.reader.read(packets.offset[row] as number, packets.size[row] as number);
      opened.packets.get(row)?.free();
      opened.packets.set(row, packetOfRow(media, row, data));
    }
  }

  /** Decoders of a slot's feeds work side by side. */
  async decode(piece: readonly FeedRows[], rows: SlotRows | null): Promise<void> {
    const ending = rows
      ? [...this.open].filter(
          ([index, { decoder }]) => this.feed(index).last < rows.slot && !decoder.finished,
        )
      : [];
    await Promise.all([
      ...ending.map(([, { decoder }]) => decoder.finish()),
      ...piece.map(async (one, at) => {
        const begun = monotonicUs();
        await this.decodeRows(one);
        if (rows) this.useTimes.decodeUs[(this.firstUse[rows.slot] as number) + at] = monotonicUs() - begun;
      }),
    ]);
    if (rows) this.pending.push(rows.slot);
  }

  private async decodeRows({ feed, rows, dropped, reset, drain }: FeedRows): Promise<void> {
    const { decoder, packets } = this.openFeed(feed);
    for (const row of dropped) {
      packets.get(row)?.free();
      packets.delete(row);
    }
    const handed = rows.flatMap((row) => packets.get(row) ?? []);
    for (const row of rows) packets.delete(row);
    try {
      await decoder.decode(handed, reset, drain);
    } finally {
      for (const packet of handed) packet.free();
    }
  }

  async end(): Promise<void> {
    await Promise.all(
      [...this.open.values()].flatMap(({ decoder }) => (decoder.finished ? [] : [decoder.finish()])),
    );
  }

  get hasFrame(): boolean {
    const [slot] = this.pending;
    return (
      slot !== undefined &&
      (this.plan.uses[slot] ?? []).every(({ feed, step }) => this.openFeed(feed).decoder.isSettled(step))
    );
  }

  async receive(): Promise<{ slot: number; decoded: SlotFrames; isRefused: boolean }> {
    const slot = this.pending.shift() as number;
    const uses = this.plan.uses[slot] ?? [];
    const frames: (Frame | null)[] = [];
    let isRefused = false;
    for (const { feed, step, layer } of uses) {
      const frame = this.openFeed(feed).decoder.take(step);
      if (frame) this.hasDecoded = true;
      if (layer >= 0) {
        frames[layer] = frame;
        if (frame === null) this.hasRefused = isRefused = true;
      } else frame?.free();
    }
    for (const [index, { decoder }] of this.open)
      if (this.feed(index).last <= slot && !decoder.finished) await this.closeFeed(index);
    const decoded = Array.from(frames, (frame) => frame ?? null);
    if (!isRefused) this.options.finisher.prepare(slot, decoded);
    return { slot, decoded, isRefused };
  }

  get failure(): Error | null {
    if (this.hasDecoded || !this.hasRefused) return null;
    for (const { decoder } of this.open.values()) if (decoder.failure) return decoder.failure;
    return new EngineError('no-picture-no-reason');
  }

  get faults(): RunFaults | null {
    const byMedia = new Map(
      this.plan.feeds
        .filter((_, index) => this.open.has(index))
        .map((feed) => [feed.media, this.options.mediaOf(feed)]),
    );
    const clips = [...byMedia].flatMap(
      ([
        media,
        {
          faults: { faults },
          name = '',
        },
      ]) => (faults ? [{ media, name, faults }] : []),
    );
    const doubtfulOf = new Map([...byMedia].map(([media, { faults }]) => [media, faults.doubtful]));
    const isDoubtfulUse = ({ feed, step, layer }: FeedUse) => {
      const {
        media,
        plan: { frames },
      } = this.feed(feed);
      return layer >= 0 && doubtfulOf.get(media)?.has(frames[step] as number) === true;
    };
    const doubtful = rangesOf(
      this.plan.uses.flatMap((uses, slot) => (uses.some(isDoubtfulUse) ? [slot] : [])),
    );
    return clips.length > 0 || doubtful.length > 0 ? { clips, doubtful } : null;
  }

  private async closeFeed(index: number): Promise<void> {
    const opened = this.open.get(index);
    if (!opened) return;
    opened.decoder.close();
    for (const packet of opened.packets.values()) packet.free();
    opened.packets.clear();
    await opened.reader?.close();
    opened.reader = null;
  }

  process(slot: number, frames: SlotFrames): Promise<ProcessedPicture | null> {
    return this.options.finisher.process(slot, frames);
  }

  drop(frames: SlotFrames): void {
    for (const frame of frames) frame?.free();
  }

  release(picture: ProcessedPicture): void {
    this.options.finisher.release(picture);
  }

  shownFrame(slot: number, picture: ProcessedPicture | null): ShownFrame {
    return this.options.finisher.shownFrame(slot, picture);
  }

  get frameCode(): boolean {
    return this.options.finisher.frameCode;
  }

  /** Of the decoders used, in words. */
  get decoders(): { name: string; threads: number; threadKind: string }[] {
    return [...this.open.values()].flatMap(({ decoder }) => decoder.threads ?? []);
  }

  async close(): Promise<void> {
    // Decoders that are opened ahead may still be on their way.
    await Promise.all([...this.open.values()].map(({ decoder }) => decoder.open().catch(() => undefined)));
    await Promise.all([...this.open.keys()].map((index) => this.closeFeed(index)));
    await this.options.finisher.close();
  }
}

/** The feed of a clip played by itself. */
export function clipFeed(
  feed: Pick<CourseFeed, 'plan' | 'weight'>,
  slots: number,
): { feeds: CourseFeed[]; uses: FeedUse[][] } {
  return {
    feeds: [
      {
        key: '',
        itemId: '',
        itemName: '',
        trackIndex: 0,
        media: clipMedia,
        first: 0,
        last: slots - 1,
        ...feed,
      },
    ],
    uses: Array.from({ length: slots }, (_, step) => [{ feed: 0, step, layer: 0 }]),
  };
}
