import type { Frame } from 'node-av/lib';
import { streamKey } from '@/core/timeline/course';
import { deviceRaster } from '@/core/timeline/deviceRaster';
import { flattenSlot, type SlotContent } from '@/core/timeline/flatten';
import type { Item, Timeline } from '@/core/timeline/model';
import { readFrameCode } from '@/core/media/frameCode';
import { monotonicUs } from '../clock';
import { DecodeError } from '../decodeFailure';
import { lumaReader } from '../media/luma';
import type { ProcessedPicture } from '../codec/processor';
import { RunDevices } from '../codec/runDevices';
import { FrameAccess, type AccessCost } from '../codec/frameAccess';
import type { SlotProcessor } from './slotProcessor';
import type { OpenMedia } from '../codec/openMedia';

/** Clips kept open at once. */
const mostOpen = 16;

/** What was read and decoded for a layer's frame: nothing where it was kept from before. */
export interface FrameOrigin {
  readonly media: string;
  readonly frame: number;
  readonly bytes: number;
  readonly packets: number;
}

/** A slot's picture with what it took. Times in µs. */
export interface FetchedSlot {
  readonly picture: ProcessedPicture;
  /** The decoder made no picture of a frame that shows: the slot's picture lacks it. */
  readonly isRefused: boolean;
  /** Frame of the topmost layer with media that was asked for; -1 where there is none. */
  readonly wanted: number;
  /** The number that its picture proves; null where it carries none. */
  readonly proved: number | null;
  readonly readUs: number;
  readonly decodeUs: number;
  readonly processUs: number;
  readonly bytes: number;
  /** Packets decoded for it. */
  readonly packets: number;
  /** Frames from its key frame, of the layer that is farthest from its own. */
  readonly fromKey: number;
  /** Of each layer with media that is at hand, from the lowest up. */
  readonly origins: readonly FrameOrigin[];
}

function addCost(sum: AccessCost, cost: AccessCost): void {
  for (const column of ['readUs', 'decodeUs', 'bytes', 'packets'] as const) sum[column] += cost[column];
}

/** Any slot of a timeline, in any order: what a scrubbing playhead asks for. */
export class SlotAccess {
  private readonly accesses = new Map<string, FrameAccess>();
  private readonly coded = new Map<string, boolean>();

  constructor(
    private timeline: Timeline,
    private readonly media: ReadonlyMap<string, OpenMedia>,
    private readonly processor: SlotProcessor,
    private readonly threads: number,
    private readonly devices = RunDevices.software(),
  ) {}

  /** Goes on with an edited timeline; what is decoded of its media stays. */
  setTimeline(timeline: Timeline): void {
    this.timeline = timeline;
  }

  /**
   * Fetches, decodes and processes one slot. Null when it went stale at a stage boundary.
   * @param onStage told the stage that was reached last
   * @throws EngineError when something cannot be read or processed
   */
  async fetch(
    slot: number,
    isStale: () => boolean = () => false,
    onStage: (stage: 'read' | 'decode' | 'process') => void = () => undefined,
  ): Promise<FetchedSlot | null> {
    const content = flattenSlot(this.timeline, slot);
    onStage('read');
    const got = await this.frames(content, isStale);
    try {
      onStage('decode');
      if (isStale()) return null;
      const begun = monotonicUs();
      const picture = await this.processor.process(content.layers, got.frames);
      const { wanted, proved } = this.prove(content, got.frames);
      return {
        picture,
        isRefused: got.isRefused,
        wanted,
        proved,
        ...got.cost,
        origins: got.origins,
        processUs: monotonicUs() - begun,
      };
    } finally {
      for (const frame of got.frames) frame?.free();
    }
  }

  release(picture: ProcessedPicture): void {
    this.processor.release(picture);
  }

  /** The decoded frames of a slot, per layer. The caller frees them. */
  async frames({ layers, alongside }: SlotContent, isStale: () => boolean = () => false) {
    const before = this.total();
    const begun = monotonicUs();
    let fromKey = 0;
    const get = async (
      item: Item,
      track: number,
      media: string,
      angle: number,
      frame: number,
    ): Promise<{ readonly picture: Frame | null; readonly origin: FrameOrigin } | null> => {
      const access = this.access(item, track, media, angle);
      if (!access) return null;
      fromKey = Math.max(fromKey, access.distanceFromKey(frame));
      const { bytes, packets } = access.cost;
      const picture = await access.frame(frame, isStale).catch((error: unknown) => {
        // Another layer may be there.
        if (error instanceof DecodeError) return null;
        throw error;
      });
      return {
        picture,
        origin: { media, frame, bytes: access.cost.bytes - bytes, packets: access.cost.packets - packets },
      };
    };
    const [shown, unseen] = await Promise.all([
      Promise.all(
        layers.map((layer) =>
          layer.media === null
            ? Promise.resolve(null)
            : get(layer.item, layer.trackIndex, layer.media, layer.angle, layer.frame),
        ),
      ),
      Promise.all(
        alongside.map(({ item, media, angle, frame }) => {
          const track = layers.find((layer) => layer.item.id === item.id)?.trackIndex ?? 0;
          return get(item, track, media, angle, frame);
        }),
      ),
    ]);
    for (const one of unseen) one?.picture?.free();
    const frames = shown.map((one) => one?.picture ?? null);
    const isRefused =
      !isStale() && layers.some(({ media }, at) => media !== null && this.media.has(media) && !frames[at]);
    const after = this.total();
    // Layers work side by side; their times are laid out in the wall time they took together.
    const wallUs = monotonicUs() - begun;
    const readUs = after.readUs - before.readUs;
    const decodeUs = after.decodeUs - before.decodeUs;
    const share = readUs + decodeUs > 0 ? readUs / (readUs + decodeUs) : 0;
    return {
      frames,
      isRefused,
      origins: shown.flatMap((one) => one?.origin ?? []),
      cost: {
        readUs: wallUs * share,
        decodeUs: wallUs * (1 - share),
        bytes: after.bytes - before.bytes,
        packets: after.packets - before.packets,
        fromKey,
      },
    };
  }

  /** Why a frame was not decoded, the last time; null where none was refused. */
  get failure(): Error | null {
    for (const { failure } of this.accesses.values()) if (failure) return failure;
    return null;
  }

  private total() {
    const sum = { ...this.closedCost };
    for (const { cost } of this.accesses.values()) addCost(sum, cost);
    return sum;
  }

  private readonly closedCost: AccessCost = { readUs: 0, decodeUs: 0, bytes: 0, packets: 0 };

  private access(item: Item, track: number, media: string, angle: number): FrameAccess | null {
    const key = streamKey(item, media, angle);
    const open = this.media.get(media);
    if (!open) return null;
    const there = this.accesses.get(key);
    if (there) {
      this.accesses.delete(key);
      this.accesses.set(key, there);
      return there;
    }
    for (const [oldest, access] of this.accesses) {
      if (this.accesses.size < mostOpen) break;
      this.accesses.delete(oldest);
      addCost(this.closedCost, access.cost);
      void access.close();
    }
    const access = new FrameAccess(
      open,
      this.threads,
      this.devices.stream(
        key,
        { item: item.name, track },
        media,
        open,
        deviceRaster(item, open.setup, this.processor.raster),
      ),
    );
    this.accesses.set(key, access);
    return access;
  }

  private prove(
    { layers }: SlotContent,
    frames: readonly (Frame | null)[],
  ): { wanted: number; proved: number | null } {
    const at = layers.findLastIndex(({ media }) => media !== null && this.media.has(media));
    const layer = layers[at];
    const frame = frames[at];
    if (!layer?.media) return { wanted: -1, proved: null };
    if (!frame) return { wanted: layer.frame, proved: -1 };
    const luma = this.coded.get(layer.media) === false ? null : lumaReader(frame);
    const code = luma && readFrameCode(frame.width, frame.height, luma);
    if (!this.coded.has(layer.media)) this.coded.set(layer.media, code === layer.frame);
    return { wanted: layer.frame, proved: this.coded.get(layer.media) ? (code ?? -1) : null };
  }

  async close(): Promise<void> {
    await Promise.all([...this.accesses.values()].map((access) => access.close()));
    this.accesses.clear();
    await this.processor.close();
  }
}
