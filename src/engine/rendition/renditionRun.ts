import { stat } from 'node:fs/promises';
import { basename, dirname } from 'node:path';
import {
  AVERROR_EAGAIN,
  AVERROR_EOF,
  AVFMT_GLOBALHEADER,
  AVMEDIA_TYPE_AUDIO,
  AV_PKT_FLAG_DISCARD,
  AV_CODEC_FLAG_GLOBAL_HEADER,
  AV_CODEC_FLAG_INTERLACED_DCT,
  AV_PICTURE_TYPE_NONE,
  AV_PKT_DATA_DISPLAYMATRIX,
  SWS_BICUBIC,
  type AVPixelFormat,
} from 'node-av/constants';
import {
  avcodecFindBestPixFmtOfList,
  avGetPixFmtFromName,
  avGetPixFmtName,
  type CodecContext,
  Dictionary,
  FormatContext,
  Frame,
  Packet,
  Rational,
  SoftwareScaleContext,
  type Stream,
} from 'node-av/lib';
import { addFault, faultsByKind, type FrameFault } from '@/core/media/faults';
import { isInterlaced } from '@/core/playback/fields';
import { checkFrames, type FrameCheck, type FrameNotes } from '@/core/rendition/frameCheck';
import { codesFields, presetOf, renditionRaster, type RenditionPreset } from '@/core/rendition/presets';
import { monotonicUs } from '../clock';
import { FieldGraph } from '../codec/fieldGraph';
import { firstField, scaledTo } from '../codec/fields';
import { FramePool } from '../codec/framePool';
import { openVideoEncoder } from '../codec/videoEncoder';
import { EngineError } from '../errors';
import { HeldFolder } from '../inPlace';
import { isConcealed } from '../codec/faultLog';
import { mostErrorsInRow } from '../codec/refusals';
import { FrameGaps, type FilledFrame } from './gaps';
import { FrameNoter } from './notes';
import { StageQueue } from './queue';
import { check } from '../errors';
import { Source } from './source';
import type { FromRendition, RenditionSpec } from './spec';
import type { RenditionStage, RenditionWork } from '@/core/rendition/work';

const reportMs = 250;
/** Frames between two stages. */
const room = 6;

/** Makes one rendition: reads, decodes, scales, encodes and writes at the same time, then holds every frame against its source. */
export class RenditionRun {
  private stopping = false;
  private frames = 0;
  private phase: 'making' | 'checking' = 'making';
  private readonly stageUs: Record<RenditionStage, number> = { decode: 0, scale: 0, encode: 0, write: 0 };
  private readonly noter = new FrameNoter();
  private readonly codes: number[] = [];
  private readonly signatures: Uint8Array[] = [];
  /** Frames handed on so far. */
  private given = 0;
  /** What the decoder told of the source's frames. */
  private readonly faults = new Map<number, FrameFault>();
  private readonly preset: RenditionPreset;

  constructor(
    private readonly spec: RenditionSpec,
    private readonly tell: (message: FromRendition) => void,
  ) {
    this.preset = presetOf(spec.presetId);
  }

  stop(): void {
    this.stopping = true;
  }

  get stopped(): boolean {
    return this.stopping;
  }

  /** @returns null when it was stopped. @throws EngineError saying what refused what */
  async run(): Promise<{ work: RenditionWork; check: FrameCheck | null } | null> {
    if (this.preset.needsConstantRate && !this.spec.identity.timing.constant)
      throw new EngineError('rate-not-constant', { preset: this.preset.name });
    const reporter = setInterval(() => this.report(), reportMs);
    try {
      const work = await this.make();
      if (this.stopping) return null;
      return { work, check: this.spec.sampleFrames === null ? await this.check() : null };
    } finally {
      clearInterval(reporter);
      this.noter.close();
      this.report();
    }
  }

  private report(): void {
    this.tell({
      type: 'progress',
      progress: { phase: this.phase, frames: this.frames, total: this.spec.sampleFrames ?? this.spec.frames },
    });
  }

  /** Adds the time that a step takes to its stage. */
  private async timed<Result>(stage: RenditionStage, step: Promise<Result>): Promise<Result> {
    const begun = monotonicUs();
    try {
      return await step;
    } finally {
      this.stageUs[stage] += monotonicUs() - begun;
    }
  }

  private async make(): Promise<RenditionWork> {
    const begun = monotonicUs();
    const source = await Source.open(this.spec);
    const target = await Target.open(this.spec, this.preset, source);
    const decoded = new StageQueue<Frame>(room);
    const scaled = new StageQueue<Frame>(room);
    const written = new StageQueue<Packet>(room * 4);
    const stages = [
      this.decode(source, target, decoded, written).finally(() => decoded.end()),
      this.scale(target, decoded, scaled).finally(() => scaled.end()),
      this.encode(target, scaled, written),
      this.write(target, written),
    ];
    // One that fails must not leave the others waiting for it.
    const guarded = stages.map((stage) =>
      stage.catch((error: unknown) => {
        this.stopping = true;
        for (const queue of [decoded, scaled, written]) queue.end();
        throw error;
      }),
    );
    await Promise.allSettled(guarded.slice(0, 3));
    written.end();
    const outcomes = await Promise.allSettled(guarded);
    const failure = outcomes.find((outcome) => outcome.status === 'rejected');
    await target.close(failure === undefined);
    await source.close();
    if (failure) throw failure.reason;
    if (this.frames === 0 && source.refusals.failure && !this.stopping) throw source.refusals.failure;
    const { size } = await stat(this.spec.outputPath);
    return {
      frames: this.frames,
      wallUs: monotonicUs() - begun,
      stageUs: { ...this.stageUs },
      bytes: size,
      width: target.width,
      height: target.height,
      pixelFormat: avGetPixFmtName(target.pixelFormat) ?? 'unknown',
      decoder: source.decoderName,
      encoder: this.preset.encoder,
      audioTracks: target.audio.size,
      ...(this.faults.size > 0 ? { faults: faultsByKind(this.faults) } : {}),
    };
  }

  private async decode(
    source: Source,
    target: Target,
    decoded: StageQueue<Frame>,
    written: StageQueue<Packet>,
  ): Promise<void> {
    const packet = new Packet();
    packet.alloc();
    const wanted = this.spec.sampleFrames ?? Infinity;
    const { missing, duplicate } = this.spec.identity.timing;
    const gaps = missing + duplicate === 0 ? new FrameGaps() : null;
    const take = async (frame: Frame) => {
      for (const made of gaps?.came(frame) ?? [{ frame, isRepeated: false }])
        await this.give(made, source, decoded, wanted);
    };
    const drain = () =>
      this.drain(
        'decode',
        () => new Frame(),
        (frame) => source.decoder.receiveFrame(frame),
        take,
        (code) => source.refusals.note(code),
      );
    while (!this.stopping && this.given < wanted) {
      const code = await this.timed('decode', source.input.readFrame(packet));
      if (code === AVERROR_EOF) break;
      check(code, 'Reading the source');
      if (packet.streamIndex === source.stream.index) {
        if (!(packet.flags & AV_PKT_FLAG_DISCARD)) gaps?.sent(packet.pts);
        // What is refused is done without: the frame before is repeated in its place, so that frame i stays frame i.
        let sent = await this.timed('decode', source.decoder.sendPacket(packet));
        for (; sent === AVERROR_EAGAIN; sent = await this.timed('decode', source.decoder.sendPacket(packet)))
          await drain();
        if (sent < 0) source.refusals.note(sent);
        await drain();
      } else if (target.audio.has(packet.streamIndex)) {
        const copy = packet.clone();
        if (copy) await written.put(target.retimed(copy, source.input.streams[packet.streamIndex]));
      }
      packet.unref();
    }
    packet.free();
    await source.decoder.sendPacket(null);
    await drain();
    for (const made of gaps?.rest() ?? []) await this.give(made, source, decoded, wanted);
  }

  /** Hands a frame on, with what is wrong with it. */
  private async give(
    { frame, isRepeated }: FilledFrame,
    { refusals }: Source,
    decoded: StageQueue<Frame>,
    wanted: number,
  ): Promise<void> {
    const number = this.given++;
    if (number >= wanted || this.stopping) {
      frame.free();
      return;
    }
    if (isRepeated) addFault(this.faults, number, refusals.take() ?? 'no-picture');
    else if (isConcealed(frame)) addFault(this.faults, number, 'concealed');
    if (this.spec.sampleFrames === null) {
      const { code, signature } = await this.noter.note(frame);
      this.codes.push(code);
      this.signatures.push(signature);
    }
    await decoded.put(frame);
  }

  /** Takes all that a codec has to give just now; the receiver owns each piece. */
  private async drain<Piece extends Frame | Packet>(
    stage: RenditionStage,
    make: () => Piece,
    receive: (piece: Piece) => Promise<number>,
    take: (piece: Piece) => void | Promise<void>,
    refuse: (code: number) => void,
  ): Promise<void> {
    for (let errors = 0; errors < mostErrorsInRow;) {
      const piece = make();
      piece.alloc();
      const code = await this.timed(stage, receive(piece));
      if (code < 0) {
        piece.free();
        if (code === AVERROR_EAGAIN || code === AVERROR_EOF) return;
        refuse(code);
        errors++;
        continue;
      }
      errors = 0;
      await take(piece);
    }
  }

  private async scale(target: Target, decoded: StageQueue<Frame>, scaled: StageQueue<Frame>): Promise<void> {
    for (let frame = await decoded.take(); frame; frame = await decoded.take()) {
      const fitted = await this.timed('scale', target.fit(frame));
      if (fitted !== frame) frame.free();
      await scaled.put(fitted);
    }
  }

  private async encode(
    target: Target,
    scaled: StageQueue<Frame>,
    written: StageQueue<Packet>,
  ): Promise<void> {
    const drain = () =>
      this.drain(
        'encode',
        () => new Packet(),
        (packet) => target.encoder.receivePacket(packet),
        (packet) => written.put(target.stamped(packet)),
        (code) => check(code, 'Encoding'),
      );
    for (let frame = await scaled.take(); frame; frame = await scaled.take()) {
      target.number(frame, this.frames++);
      check(await this.timed('encode', target.encoder.sendFrame(frame)), 'Encoding');
      target.giveBack(frame);
      await drain();
    }
    check(await this.timed('encode', target.encoder.sendFrame(null)), 'Finishing the encoder');
    await drain();
  }

  private async write(target: Target, written: StageQueue<Packet>): Promise<void> {
    for (let packet = await written.take(); packet; packet = await written.take()) {
      check(await this.timed('write', target.output.interleavedWriteFrame(packet)), 'Writing');
      packet.free();
    }
  }

  /** Decodes what was made and holds every frame against what was noted of its source. */
  private async check(): Promise<FrameCheck | null> {
    this.phase = 'checking';
    this.frames = 0;
    const made = { codes: [] as number[], signatures: [] as Uint8Array[] };
    const source = await Source.open({ ...this.spec, sourcePath: this.spec.outputPath });
    const packet = new Packet();
    packet.alloc();
    const frame = new Frame();
    frame.alloc();
    const drain = async () => {
      while ((await source.decoder.receiveFrame(frame)) >= 0) {
        const { code, signature } = await this.noter.note(frame);
        made.codes.push(code);
        made.signatures.push(signature);
        this.frames++;
        frame.unref();
      }
    };
    while (!this.stopping && (await source.input.readFrame(packet)) >= 0) {
      if (packet.streamIndex === source.stream.index) {
        while ((await source.decoder.sendPacket(packet)) === AVERROR_EAGAIN) await drain();
        await drain();
      }
      packet.unref();
    }
    await source.decoder.sendPacket(null);
    await drain();
    frame.free();
    packet.free();
    await source.close();
    return this.stopping
      ? null
      : checkFrames({ codes: this.codes, signatures: this.signatures } satisfies FrameNotes, made);
  }
}

/** The file that is made: its encoder, its tracks, and the frames it takes them in. */
class Target {
  readonly audio = new Map<number, Stream>();
  private scaler: SoftwareScaleContext | null = null;
  private fields: FieldGraph | null = null;
  private readonly pool: FramePool;
  private firstPts: bigint | null = null;

  private constructor(
    private readonly folder: HeldFolder,
    readonly output: FormatContext,
    readonly encoder: CodecContext,
    private readonly video: Stream,
    readonly pixelFormat: AVPixelFormat,
    readonly width: number,
    readonly height: number,
    private readonly constant: boolean,
  ) {
    this.pool = new FramePool(width, height, pixelFormat);
  }

  static async open(spec: RenditionSpec, preset: RenditionPreset, source: Source): Promise<Target> {
    const folder = await HeldFolder.open(dirname(spec.outputPath));
    const output = new FormatContext();
    const path = folder.at(basename(spec.outputPath));
    check(output.allocOutputContext2(null, 'mov', path), 'Choosing the container');
    const encoder = await openEncoder(spec, preset, source, output);
    const video = output.newStream(null);
    video.codecpar.fromContext(encoder);
    if (preset.encoder === 'libx265') video.codecpar.codecTag = 'hvc1';
    video.timeBase = encoder.timeBase;
    video.avgFrameRate = encoder.framerate;
    video.sampleAspectRatio = encoder.sampleAspectRatio;
    const turned = source.stream.codecpar.getCodedSideData(AV_PKT_DATA_DISPLAYMATRIX);
    if (turned) video.codecpar.addCodedSideData(AV_PKT_DATA_DISPLAYMATRIX, turned);
    if (spec.startTimecode !== null) video.metadata = Dictionary.fromObject({ timecode: spec.startTimecode });
    const target = new Target(
      folder,
      output,
      encoder,
      video,
      encoder.pixelFormat,
      encoder.width,
      encoder.height,
      spec.identity.timing.constant,
    );
    for (const stream of source.input.streams)
      if (stream.codecpar.codecType === AVMEDIA_TYPE_AUDIO) target.addAudio(stream);
    check(await output.openOutput(), 'Opening the file to write');
    check(await output.writeHeader(Dictionary.fromObject({ movflags: '+faststart' })), 'Writing the header');
    return target;
  }

  private addAudio(stream: Stream): void {
    const track = this.output.newStream(null);
    stream.codecpar.copy(track.codecpar);
    track.codecpar.codecTag = 0;
    track.timeBase = stream.timeBase;
    this.audio.set(stream.index, track);
  }

  /** A frame in the rendition's raster and pixel format: the same one where nothing changes. */
  async fit(frame: Frame): Promise<Frame> {
    if (frame.width === this.width && frame.height === this.height && frame.format === this.pixelFormat)
      return frame;
    if (firstField(frame) !== null) return this.fitFields(frame);
    if (!this.scaler) {
      this.scaler = new SoftwareScaleContext();
      this.scaler.getContext(
        frame.width,
        frame.height,
        frame.format as AVPixelFormat,
        this.width,
        this.height,
        this.pixelFormat,
        SWS_BICUBIC,
      );
    }
    const target = this.pool.take();
    const { pts } = frame;
    target.copyProps(frame);
    check(await this.scaler.scaleFrame(target, frame), 'Scaling');
    target.pts = pts;
    return target;
  }

  /** The same of an interlaced frame: its fields are scaled apart, and stay in one picture. */
  private async fitFields(frame: Frame): Promise<Frame> {
    this.fields ??= await FieldGraph.open(frame, [
      scaledTo(this, true, 'bicubic'),
      `format=${avGetPixFmtName(this.pixelFormat)}`,
    ]);
    const picture = await this.fields.picture(frame);
    picture.copyProps(frame);
    return picture;
  }

  giveBack(frame: Frame): void {
    this.pool.giveBack(frame);
  }

  /** Gives a frame its time: its number at a constant rate, else its own time from the first frame on. */
  number(frame: Frame, index: number): void {
    const own =
      frame.bestEffortTimestamp > -(2n ** 62n) && frame.bestEffortTimestamp !== 0n
        ? frame.bestEffortTimestamp
        : frame.pts;
    this.firstPts ??= own;
    frame.pts = this.constant ? BigInt(index) : own - this.firstPts;
    frame.duration = this.constant ? 1n : frame.duration;
    frame.pictType = AV_PICTURE_TYPE_NONE;
  }

  stamped(packet: Packet): Packet {
    if (this.constant) packet.duration = 1n;
    packet.rescaleTs(this.encoder.timeBase, this.video.timeBase);
    packet.streamIndex = this.video.index;
    return packet;
  }

  retimed(packet: Packet, from: Stream | undefined): Packet {
    const track = this.audio.get(packet.streamIndex);
    if (track && from) {
      packet.rescaleTs(from.timeBase, track.timeBase);
      packet.streamIndex = track.index;
      packet.pos = -1n;
    }
    return packet;
  }

  async close(whole: boolean): Promise<void> {
    if (whole) check(await this.output.writeTrailer(), 'Writing the end of the file');
    await this.output.closeOutput();
    await this.folder.close();
    this.pool.close();
    this.scaler?.freeContext();
    this.fields?.close();
    this.encoder.freeContext();
    this.output.freeContext();
  }
}

/** The rendition's encoder: raster, nearest pixel format, time base and colour of the source. */
function openEncoder(
  spec: RenditionSpec,
  preset: RenditionPreset,
  { stream, decoder }: Source,
  output: FormatContext,
): Promise<CodecContext> {
  const { constant } = spec.identity.timing;
  const offered = preset.pixelFormats.map((name) => avGetPixFmtFromName(name));
  return openVideoEncoder({
    encoder: preset.encoder,
    options: preset.options,
    ...renditionRaster(stream.codecpar, spec),
    pixelFormat: avcodecFindBestPixFmtOfList(offered, decoder.pixelFormat),
    timeBase: constant ? new Rational(spec.rate.den, spec.rate.num) : stream.timeBase,
    rate: new Rational(spec.rate.num, spec.rate.den),
    sampleAspect:
      stream.sampleAspectRatio.num > 0 ? stream.sampleAspectRatio : stream.codecpar.sampleAspectRatio,
    colour: stream.codecpar,
    threads: spec.threads,
    keyDistance: preset.keyInterval ?? Math.max(1, Math.round(spec.rate.num / spec.rate.den)),
    flags: [
      ...(isInterlaced(spec.identity.scan) && codesFields(preset.encoder)
        ? [AV_CODEC_FLAG_INTERLACED_DCT]
        : []),
      ...(output.oformat?.hasFlags(AVFMT_GLOBALHEADER) ? [AV_CODEC_FLAG_GLOBAL_HEADER] : []),
    ],
  });
}
