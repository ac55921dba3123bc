import { availableParallelism } from 'node:os';
import { isSoftwareAlone } from '@/core/decode/decoding';
import { percent } from '@/core/format';
import type { StreamsStep } from '@/core/decode/result';
import { decodePacketTable } from '@/core/media/packetTable';
import { nextStreams } from '@/core/storage/ramp';
import { toNumber } from '@/core/time/rational';
import { monotonicUs, sleepUs } from '../clock';
import { EngineError } from '../errors';
import type { VideoDecoder } from '../codec/decoder';
import { clipMedia } from '../codec/openMedia';
import { Processor } from '../codec/processor';
import { RunDevices } from '../codec/runDevices';
import type { DecodeSpec, FromDecode } from './spec';
import { freeWindow, loadWindow, type PacketWindow } from '../codec/window';
import type { DecodeStreamsSettings } from '@/core/kinds/decodeStreams';
import { mostRampSteps } from '@/core/storage/limits';

/** Frames a stream may be ahead of its clock, as a player's buffer allows. */
const depth = 6;
const reportMs = 250;

/**
 * Ramps streams of one clip, each decoded from memory and brought to the playback
 * raster, until a frame misses its slot. Every stream has its own decoder; the
 * cores are shared out between them.
 */
export class StreamsRun {
  private stopping = false;
  private frames = 0;

  constructor(
    private readonly spec: DecodeSpec,
    private readonly settings: DecodeStreamsSettings,
    private readonly tell: (message: FromDecode) => void,
  ) {}

  stop(): void {
    this.stopping = true;
  }

  get stopped(): boolean {
    return this.stopping;
  }

  async run(): Promise<void> {
    const window = await loadWindow(
      { ...this.spec, packets: decodePacketTable(this.spec.packets) },
      Math.ceil(toNumber(this.settings.rate) * this.settings.seconds) + depth,
    );
    const done: StreamsStep[] = [];
    const devices = RunDevices.open(this.settings.decoding);
    try {
      const { path, setup, format, packets } = this.spec;
      const { rate } = this.settings;
      const frames = new Set(window.table.slot.subarray(0, window.packets.length));
      await devices.decodeBeforehand(
        () => new Map([[clipMedia, { path, setup, format, rate, packets, frames }]]),
        (doneFrames, all) => this.tellBeforehand(doneFrames / all),
      );
      for (
        let next = nextStreams(done, this.settings.mostStreams, mostRampSteps);
        next !== null && !this.stopping;
        next = nextStreams(done, this.settings.mostStreams, mostRampSteps)
      ) {
        const step = await this.step(next, window, done.length, devices);
        if (this.stopping) return;
        done.push(step);
        this.tell({ type: 'streams', step });
      }
    } finally {
      freeWindow(window);
      devices.close();
    }
  }

  private toldMs = 0;

  private tellBeforehand(share: number): void {
    if (Date.now() - this.toldMs < reportMs) return;
    this.toldMs = Date.now();
    this.frames++; // what the watchdog looks at
    const note = `Decoding pictures for the stand-in, ${percent(share, 0)}`;
    this.tell({
      type: 'progress',
      progress: { note, share: 0, frames: this.frames, framesPerSecond: 0, msLeft: null },
    });
  }

  private async step(
    streams: number,
    window: PacketWindow,
    index: number,
    devices: RunDevices,
  ): Promise<StreamsStep> {
    const clock = { startUs: Number.NaN, missed: 0, leastSpareUs: Infinity, frames: 0 };
    const threads = Math.max(1, Math.floor(availableParallelism() / streams));
    const playing = await Promise.all(
      Array.from({ length: streams }, (_, stream) => {
        const media = {
          ...this.spec,
          rate: this.settings.rate,
          packets: window.table,
          period: window.period,
        };
        const open = devices.stream(String(stream), { item: '', track: stream }, clipMedia, media);
        return Stream.open(this.spec, this.settings, window, () => open({ threads, lowDelay: false }));
      }),
    );
    const reporter = setInterval(
      () =>
        this.tell({
          type: 'progress',
          progress: {
            note: `${streams} ${streams === 1 ? 'stream' : 'streams'}`,
            share: (index + 0.5) / mostRampSteps,
            frames: this.frames,
            framesPerSecond: 0,
            msLeft: null,
          },
        }),
      reportMs,
    );
    try {
      const total = Math.ceil(toNumber(this.settings.rate) * this.settings.seconds);
      await Promise.all(
        playing.map((stream) =>
          stream.fill(depth, () => {
            this.frames++;
          }),
        ),
      );
      clock.startUs = monotonicUs();
      await Promise.all(
        playing.map((stream) =>
          stream.play(clock, total, depth, () => {
            this.frames++;
            return this.stopping || clock.missed > 0;
          }),
        ),
      );
    } finally {
      clearInterval(reporter);
      for (const stream of playing) stream.close();
    }
    const refused = playing.reduce((sum, stream) => sum + stream.refused, 0);
    const onDevice = playing.reduce((sum, stream) => sum + stream.onDevice, 0);
    return {
      streams,
      frames: clock.frames,
      missed: clock.missed,
      refused,
      ...(isSoftwareAlone(this.settings.decoding) ? {} : { onDevice }),
      clean: clock.missed === 0,
      leastSpareUs: Math.round(clock.leastSpareUs),
    };
  }
}

interface Clock {
  startUs: number;
  missed: number;
  leastSpareUs: number;
  frames: number;
}

/** One stream: its decoder, its place in the window, and how many frames it has ready. */
class Stream {
  private sent = 0;
  private made = 0;
  /** Frames that could not be decoded. */
  refused = 0;

  private constructor(
    private readonly decoder: VideoDecoder,
    private readonly processor: Processor,
    private readonly window: PacketWindow,
    private readonly slotUs: number,
  ) {}

  static async open(
    { setup }: DecodeSpec,
    { rate, scale, depth }: DecodeStreamsSettings,
    window: PacketWindow,
    openDecoder: () => Promise<VideoDecoder>,
  ): Promise<Stream> {
    return new Stream(
      await openDecoder(),
      new Processor(setup.width, setup.height, scale, { depth }),
      window,
      (1e6 * rate.den) / rate.num,
    );
  }

  /** Frames of it that a device decoded. */
  get onDevice(): number {
    return this.decoder.onDevice;
  }

  /** Makes frames until `count` are ready. */
  async fill(count: number, onFrame: () => void): Promise<void> {
    while (this.made < count) {
      await this.makeOne();
      onFrame();
    }
  }

  /** Plays against the clock; a frame made after its due time is missed. `ended` is asked after every frame. */
  async play(clock: Clock, total: number, ahead: number, ended: () => boolean): Promise<void> {
    while (this.made < total) {
      await sleepUs(clock.startUs + (this.made - ahead) * this.slotUs - monotonicUs());
      const slot = this.made;
      await this.makeOne();
      const spareUs = clock.startUs + slot * this.slotUs - monotonicUs();
      clock.leastSpareUs = Math.min(clock.leastSpareUs, spareUs);
      clock.frames++;
      if (spareUs < 0) clock.missed++;
      if (ended()) return;
    }
  }

  /** Makes the next frame. One that is refused has its turn too: it says nothing of how fast the others come. */
  private async makeOne(): Promise<void> {
    const { packets } = this.window;
    for (let sent = 0; sent <= packets.length + depth; sent++) {
      const frame = await this.decoder.receive();
      if (frame) {
        this.processor.release(await this.processor.process(frame));
        frame.free();
        this.made++;
        return;
      }
      if (this.decoder.refusals.take() !== null) {
        this.made++;
        this.refused++;
        return;
      }
      const at = this.sent % packets.length;
      const packet = packets[at]?.clone();
      if (!packet) return;
      packet.pts = packet.dts = BigInt(
        Math.floor(this.sent / packets.length) * this.window.period + (this.window.table.slot[at] ?? 0),
      );
      await this.decoder.send(packet);
      packet.free();
      this.sent++;
    }
    throw this.decoder.refusals.failure ?? new EngineError('no-picture-of-clip');
  }

  close(): void {
    this.decoder.close();
    this.processor.close();
  }
}
