import { freemem } from 'node:os';
import type { Frame } from 'node-av/lib';
import { kindOfDevice } from '@/core/decode/device';
import { pairsOf, passRate, type DecodePass, type DecodeSide, type SeekCost } from '@/core/decode/result';
import { fewestPairs, wantsAnotherPair } from '@/core/decode/verdict';
import type { ClipFaults } from '@/core/media/faults';
import { frameIndex } from '@/core/media/frameIndex';
import { decodePacketTable, isKey, type PacketTable } from '@/core/media/packetTable';
import { TimeLeftEstimator } from '@/core/tasks/timeLeft';
import { monotonicUs } from '../clock';
import { FaultLog, isConcealed } from '../codec/faultLog';
import { CodecSource, StandInSource, type FrameSource } from './frameSource';
import type { DecodeSpec, FromDecode } from './spec';
import { freeWindow, loadWindow, frameBytes, shorten, type PacketWindow } from '../codec/window';
import type { RateSettings } from '@/core/kinds/decodeRate';
import type { SupportSettings } from '@/core/kinds/decodeSupport';
import { greatest } from '@/core/stats/extremes';

const reportUs = 200_000;
const fewestFrames = 8;
/** Frames of a window that a device's passes go round in, at most. */
const mostRoundFrames = 48;
const mostDecodedBytes = 1.5 * 2 ** 30;
const mostSeeks = 16;
const seekBudgetUs = 4e6;

/** What one pass gave. */
class Taken {
  frames = 0;
  onDevice = 0;
  firstUs = Number.NaN;
  lastUs = Number.NaN;
  private readonly came: Uint8Array;
  private readonly concealed = new Set<number>();

  constructor(
    private readonly source: FrameSource,
    private readonly window: PacketWindow,
  ) {
    this.came = new Uint8Array(window.period);
  }

  take(): void {
    for (let frame = this.source.receive(); frame; frame = this.source.receive()) {
      this.lastUs = monotonicUs();
      if (this.frames++ === 0) this.firstUs = this.lastUs;
      if (this.source.lastOnDevice) this.onDevice++;
      const number = Number(frame.pts) % this.window.period;
      this.came[number] = 1;
      if (isConcealed(frame)) this.concealed.add(number);
    }
  }

  /** Notes the frames that did not come of what was sent, and those that were concealed. */
  noteFaults(faults: FaultLog, sent: number): void {
    const { table, packets } = this.window;
    for (let row = 0; row < Math.min(sent, packets.length); row++) {
      const frame = table.slot[row] ?? 0;
      if (this.came[frame] === 0) faults.note(frame, this.source.refusals.take() ?? 'no-picture');
    }
    for (const frame of this.concealed) faults.note(frame, 'concealed');
  }
}

/** Measures decoding alone, from memory. The loop runs on this thread alone, as a command-line decoder's does; it looks up now and then. */
export class DecodeRun {
  private stopping = false;
  private frames = 0;
  private lastReportUs = 0;
  private lastReportFrames = 0;
  private peakBytes = 0;
  private planned = 1;
  private done = 0;
  private readonly timeLeft = new TimeLeftEstimator(4_000, 15_000);
  private readonly table: PacketTable;
  private readonly faults: FaultLog;

  constructor(
    private readonly spec: DecodeSpec,
    private readonly tell: (message: FromDecode) => void,
  ) {
    this.table = decodePacketTable(spec.packets);
    this.faults = new FaultLog(this.table);
  }

  /** What was met of frames that are not whole; null: nothing. */
  get clipFaults(): ClipFaults | null {
    return this.faults.faults;
  }

  stop(): void {
    this.stopping = true;
  }

  get stopped(): boolean {
    return this.stopping;
  }

  private get clip() {
    const { path, setup } = this.spec;
    return { path, setup, packets: this.table };
  }

  async rate(settings: RateSettings): Promise<void> {
    const window = await loadWindow(this.clip, this.table.length);
    const before = process.memoryUsage.rss();
    this.planned = settings.passes;
    try {
      for (let pass = 0; pass < settings.passes && !this.stopping; pass++) {
        const measured = await this.pass(
          'software',
          window,
          settings.passSeconds,
          false,
          this.spec.cores === 'one' && pass === 0,
        );
        this.tell({ type: 'pass', pass: measured });
        this.done = pass + 1;
      }
      if (this.spec.cores === 'all' && !this.stopping) {
        this.tell({ type: 'memory', bytes: Math.max(0, this.peakBytes - before) });
        this.tell({ type: 'seeks', seeks: await this.seeks(window) });
      }
    } finally {
      freeWindow(window);
    }
  }

  async support(settings: SupportSettings): Promise<void> {
    const budget = Math.min(mostDecodedBytes, freemem() / 4);
    const most = Math.max(2, Math.min(mostRoundFrames, Math.floor(budget / frameBytes(this.spec.format))));
    const whole = await loadWindow(this.clip, most);
    const passes: DecodePass[] = [];
    let decoded: ReadonlyMap<number, Frame> = new Map();
    this.planned = 2 * fewestPairs;
    try {
      // A round takes about one pass, so that both sides decode the same frames the same number of times.
      const trial = await this.pass('software', whole, settings.passSeconds, false, false);
      const window = shorten(
        whole,
        Math.max(fewestFrames, Math.round(passRate(trial) * settings.passSeconds)),
      );
      decoded = settings.deviceId.startsWith('stand-in') ? await this.decodeAll(window) : decoded;
      while (!this.stopping && wantsAnotherPair(pairsOf(passes, this.spec.cores), settings.mostPairs)) {
        for (const side of ['software', 'device'] as const) {
          const measured = await this.pass(
            side,
            window,
            settings.passSeconds,
            true,
            false,
            decoded,
            settings.deviceId,
          );
          if (this.stopping) return;
          passes.push(measured);
          this.tell({ type: 'pass', pass: measured });
          this.done = passes.length;
          this.planned = Math.max(this.planned, 2 * Math.ceil((passes.length + 1) / 2));
        }
      }
    } finally {
      for (const frame of decoded.values()) frame.free();
      freeWindow(whole);
    }
  }

  private open(
    side: DecodeSide,
    window: PacketWindow,
    decoded: ReadonlyMap<number, Frame>,
    deviceId: string,
  ): FrameSource {
    const { setup, format, cores } = this.spec;
    if (side === 'software') return CodecSource.open(setup, cores);
    return deviceId.startsWith('stand-in')
      ? StandInSource.open(deviceId, setup, format, cores, decoded, window.period)
      : CodecSource.open(setup, cores, kindOfDevice(deviceId));
  }

  /** One pass, round after round over the window. @param wholeRounds ends only with a round @param wantCosts note what each packet of the first round costs */
  private async pass(
    side: DecodeSide,
    window: PacketWindow,
    seconds: number,
    wholeRounds: boolean,
    wantCosts: boolean,
    decoded: ReadonlyMap<number, Frame> = new Map(),
    deviceId = '',
  ): Promise<DecodePass> {
    const cpu = process.cpuUsage();
    const begunUs = monotonicUs();
    const source = this.open(side, window, decoded, deviceId);
    const costs = wantCosts ? new Float64Array(window.packets.length) : null;
    const taken = new Taken(source, window);
    const wantedUs = seconds * 1e6 * (wholeRounds ? 0.9 : 1);
    let sent = 0;
    try {
      for (; !this.stopping; sent++) {
        const at = sent % window.packets.length;
        const nowUs = monotonicUs();
        if (at === 0 || !wholeRounds) {
          const enough = taken.frames >= fewestFrames || sent >= 4 * window.packets.length;
          if (sent > 0 && enough && nowUs - begunUs >= wantedUs) break;
        }
        const packet = window.packets[at];
        if (!packet) break;
        packet.pts = packet.dts = BigInt(
          Math.floor(sent / window.packets.length) * window.period + (window.table.slot[at] ?? 0),
        );
        while (!source.send(packet)) taken.take();
        taken.take();
        if (costs && sent < costs.length) costs[sent] = monotonicUs() - nowUs;
        if (nowUs - this.lastReportUs > reportUs) await this.report(nowUs, taken.frames, side);
      }
      source.send(null);
      taken.take();
    } finally {
      source.close();
    }
    const { frames, onDevice, firstUs, lastUs } = taken;
    if (frames === 0 && source.refusals.failure && !this.stopping) throw source.refusals.failure;
    // What a device refuses says nothing of the clip.
    if (side === 'software') taken.noteFaults(this.faults, sent);
    this.frames += frames;
    const used = process.cpuUsage(cpu);
    if (costs)
      this.tell({
        type: 'costs',
        costs: {
          type: window.table.type.slice(0, Math.min(sent, costs.length)),
          costUs: costs.subarray(0, sent),
        },
      });
    return {
      cores: this.spec.cores,
      side,
      frames,
      firstFrameUs: firstUs - begunUs,
      spanUs: lastUs - firstUs,
      cpuUs: used.user + used.system,
      onDevice,
      refused: source.refusals.count,
      decoder: source.decoder,
      threads: source.threads,
      threadKind: source.threadKind,
    };
  }

  private async report(nowUs: number, framesOfPass: number, side: DecodeSide): Promise<void> {
    const frames = this.frames + framesOfPass;
    const framesPerSecond =
      this.lastReportUs === 0
        ? 0
        : Math.max(0, ((frames - this.lastReportFrames) / (nowUs - this.lastReportUs)) * 1e6);
    this.lastReportUs = nowUs;
    this.lastReportFrames = frames;
    this.peakBytes = Math.max(this.peakBytes, process.memoryUsage.rss());
    this.timeLeft.observe(this.done, nowUs / 1000);
    const cores = this.spec.cores === 'one' ? 'on one core' : 'on all cores';
    this.tell({
      type: 'progress',
      progress: {
        note: `${side === 'software' ? 'Software' : 'Device'} ${cores}`,
        share: Math.min(1, this.done / this.planned),
        frames,
        framesPerSecond,
        msLeft: this.timeLeft.remainingMs(this.planned),
      },
    });
    await new Promise(setImmediate);
  }

  /** Every frame of a window, decoded and kept. */
  private async decodeAll(window: PacketWindow): Promise<Map<number, Frame>> {
    const source = CodecSource.open(this.spec.setup, 'all');
    const frames = new Map<number, Frame>();
    const take = () => {
      for (let frame = source.receive(); frame; frame = source.receive()) {
        const kept = frame.clone();
        if (kept) frames.set(Number(frame.pts), kept);
      }
    };
    for (const [row, packet] of window.packets.entries()) {
      packet.pts = packet.dts = BigInt(window.table.slot[row] ?? 0);
      while (!source.send(packet)) take();
      take();
      if (monotonicUs() - this.lastReportUs > reportUs)
        await this.report(monotonicUs(), frames.size, 'software');
    }
    source.send(null);
    take();
    source.close();
    return frames;
  }

  /** Jumps to frames at growing distances from their key frames, within a budget of time. */
  private async seeks(window: PacketWindow): Promise<SeekCost[]> {
    const { table, packets } = window;
    const { keyRow } = frameIndex(table);
    const keyOf = (row: number) => keyRow[table.slot[row] ?? 0] ?? 0;
    const rows = seekTargets(
      packets.map((_, row) => row - keyOf(row)),
      packets.map((_, row) => isKey(table, row)),
    );
    const source = CodecSource.open(this.spec.setup, 'all');
    const found: SeekCost[] = [];
    const begunUs = monotonicUs();
    try {
      for (const row of rows) {
        if (this.stopping || monotonicUs() - begunUs > seekBudgetUs) break;
        found.push({ distance: row - keyOf(row), us: this.jump(source, window, row, keyOf(row)) });
        await this.report(monotonicUs(), 0, 'software');
      }
    } finally {
      source.close();
    }
    return found;
  }

  private jump(source: CodecSource, { packets, table }: PacketWindow, row: number, key: number): number {
    source.flush();
    const wanted = BigInt(table.slot[row] ?? 0);
    const begunUs = monotonicUs();
    let shown = false;
    const take = () => {
      for (let frame = source.receive(); frame; frame = source.receive())
        if (frame.pts >= wanted) shown = true;
    };
    for (let at = key; at < packets.length && !shown; at++) {
      const packet = packets[at];
      if (!packet) break;
      packet.pts = packet.dts = BigInt(table.slot[at] ?? 0);
      while (!source.send(packet)) take();
      take();
    }
    if (!shown) {
      source.send(null);
      take();
    }
    return monotonicUs() - begunUs;
  }
}

/** Rows to jump to: distances from the key frame spread evenly; for intra media, places spread over the window. */
function seekTargets(distances: readonly number[], keys: readonly boolean[]): number[] {
  const longest = greatest(distances, 0);
  const first = keys.indexOf(true);
  if (longest === 0)
    return Array.from({ length: mostSeeks / 2 }, (_, index) =>
      Math.floor(((index + 0.5) / (mostSeeks / 2)) * distances.length),
    );
  const rows: number[] = [];
  for (let step = 0; step < mostSeeks; step++) {
    const wanted = Math.round((step / (mostSeeks - 1)) * longest);
    const near = distances.reduce(
      (best, distance, row) =>
        Math.abs(distance - wanted) < Math.abs((distances[best] ?? 0) - wanted) ? row : best,
      Math.max(0, first),
    );
    if (!rows.includes(near)) rows.push(near);
  }
  return rows;
}
