import type { AVPixelFormat } from 'node-av/constants';
import type { Frame } from 'node-av/lib';
import type { FrameNotes } from '@/core/rendition/frameCheck';
import type { StageRooms, TaskStage } from '@/core/tasks/pipeline';
import { monotonicUs, sleepUs } from '../clock';
import { EngineError } from '../errors';
import { FrameNoter } from '../rendition/notes';
import { StageQueue } from '../rendition/queue';
import { StandInGate } from '../storage/standIn';
import { roomOn } from '../storage/testFile';
import type { OutputFile, Piece } from './outputFile';
import type { PictureStage } from './pictureStage';
import type { DecodedSlot, SlotPictures } from './slotPictures';
import type { TaskSpec } from './spec';
import type { StageWatch } from './stageWatch';

/** How often it is looked whether there is room, ms. */
const roomCheckMs = 1_000;
/** Frames between the stages. */
const rooms: StageRooms = { read: 12, decode: 4, process: 4, encode: 32 };

/** Room between the stages, counted in pictures that are made. */
export const roomsFor = (perSlot: number): StageRooms => ({
  ...rooms,
  read: rooms.read * perSlot,
  decode: rooms.decode * perSlot,
});

export interface PipelineParts extends Pick<TaskSpec, 'target' | 'slowed'> {
  readonly slots: SlotPictures;
  /** Works on the pictures before they are encoded; null: nothing does. */
  readonly stage: PictureStage | null;
  readonly output: OutputFile;
  readonly watch: StageWatch;
  /** What the encoder takes. */
  readonly format: AVPixelFormat;
  /** Pictures that come of one slot, of the first one alone. */
  readonly perSlot: number;
  /** The most that the output may well take. */
  readonly likelyBytes: number;
  /** Given a picture that went to the encoder; `release` when done with it. */
  readonly onPicture: (picture: Frame, frame: number, release: () => void) => void;
}

/** The stages of a task, all at work at the same time. Each waits for the one before and for room behind it. */
export class TaskPipeline {
  private stopping = false;
  private readonly noter = new FrameNoter();
  private readonly codes: number[] = [];
  private readonly signatures: Uint8Array[] = [];
  /** When the first picture came out of the encoder, on the monotonic clock. */
  firstOutUs: number | null = null;

  constructor(private readonly parts: PipelineParts) {}

  /** What the pictures showed that were handed to the encoder. */
  get notes(): FrameNotes {
    return { codes: this.codes, signatures: this.signatures };
  }

  stop(): void {
    this.stopping = true;
  }

  /** Runs until all is written, or it is stopped. Rejects with the first failure. */
  async run(): Promise<void> {
    const read = new StageQueue<number>(rooms.read);
    const decoded = new StageQueue<DecodedSlot>(rooms.decode);
    const ready = new StageQueue<Frame>(rooms.process);
    const pieces = new StageQueue<Piece>(rooms.encode);
    const queues = [read, decoded, ready, pieces];
    const stages = [
      this.readStage(read).finally(() => read.end()),
      this.decodeStage(read, decoded).finally(() => decoded.end()),
      this.processStage(decoded, ready).finally(() => ready.end()),
      this.encodeStage(ready, pieces).finally(() => pieces.end()),
      this.writeStage(pieces),
      this.watchPaths(pieces),
    ];
    const failures: unknown[] = [];
    await Promise.all(
      stages.map((stage) =>
        stage.catch((error: unknown) => {
          failures.push(error);
          this.stop();
          for (const queue of queues) queue.end();
        }),
      ),
    );
    this.noter.close();
    if (failures.length > 0) throw failures[0];
  }

  private async readStage(read: StageQueue<number>): Promise<void> {
    const { slots } = this.parts;
    for (let slot = 0; slot < slots.slotCount && !this.stopping; slot++) {
      await this.work('read', () => slots.read(slot));
      this.parts.watch.passed('read', slots.bytesOf(slot), this.madeOf(slot));
      await read.put(slot);
    }
  }

  private async decodeStage(read: StageQueue<number>, decoded: StageQueue<DecodedSlot>): Promise<void> {
    const { slots } = this.parts;
    const takeAll = async () => {
      while (slots.hasFrame && !this.stopping) {
        const next = await this.parts.watch.busy('decode', () => slots.receive());
        this.parts.watch.passed('decode', 0, this.madeOf(next.slot));
        await decoded.put(next);
      }
    };
    for (let slot = await read.take(); slot !== null && !this.stopping; slot = await read.take()) {
      const next = slot;
      await this.work('decode', () => slots.decode(next));
      await takeAll();
    }
    if (this.stopping) return;
    await this.parts.watch.busy('decode', () => slots.end());
    await takeAll();
  }

  private async processStage(decoded: StageQueue<DecodedSlot>, ready: StageQueue<Frame>): Promise<void> {
    const { slots, stage, format } = this.parts;
    const pass = async (pictures: readonly Frame[]) => {
      for (const picture of pictures) {
        if (picture.format !== format) throw new EngineError('picture-not-as-asked');
        this.parts.watch.passed('process');
        await ready.put(picture);
      }
    };
    for (let next = await decoded.take(); next && !this.stopping; next = await decoded.take()) {
      const slot = next;
      await pass(
        await this.work('process', async () => {
          const made = await slots.make(slot);
          return this.noted(stage ? await throughStage(stage, made, slots) : made);
        }),
      );
    }
    if (stage && !this.stopping)
      await pass(await this.parts.watch.busy('process', async () => this.noted(await stage.end())));
  }

  /** Notes what pictures show, so that the output can be held against them. */
  private async noted(pictures: readonly Frame[]): Promise<readonly Frame[]> {
    const { stage } = this.parts;
    for (const picture of pictures) {
      const { code, signature } = await this.noter.note(picture);
      // What is worked on may have lost its number, or have that of two pictures mixed.
      this.codes.push(stage ? -1 : code);
      this.signatures.push(signature);
      stage?.note(signature);
    }
    return pictures;
  }

  /** Pictures that a slot stands for. */
  private madeOf(slot: number): number {
    return slot === 0 ? 1 : this.parts.perSlot;
  }

  private async encodeStage(ready: StageQueue<Frame>, pieces: StageQueue<Piece>): Promise<void> {
    const { slots, stage, output, onPicture } = this.parts;
    const takeAll = async () => {
      const done = await this.parts.watch.busy('encode', () => output.pieces());
      if (done.some(({ frame }) => frame !== null)) this.firstOutUs ??= monotonicUs();
      for (const piece of done) await pieces.put(piece);
    };
    for (let picture = await ready.take(); picture && !this.stopping; picture = await ready.take()) {
      const frame = picture;
      const number = this.parts.watch.done('encode');
      await this.work('encode', () => output.send(frame));
      this.parts.watch.passed('encode');
      onPicture(frame, number, () => (stage ?? slots.pictures).release(frame));
      await takeAll();
    }
    if (this.stopping) return;
    await this.parts.watch.busy('encode', () => output.finish());
    await takeAll();
  }

  private async writeStage(pieces: StageQueue<Piece>): Promise<void> {
    const { output } = this.parts;
    const gate = this.writeGate();
    let at = 0;
    for (let piece = await pieces.take(); piece && !this.stopping; piece = await pieces.take()) {
      const { frame, packet } = piece;
      const { size } = packet;
      const next = piece;
      const write = () => output.write(next);
      await this.work('write', () => (gate ? gate.pace(0, at, size, true, write) : write()), frame !== null);
      at += size;
      this.parts.watch.wrote(size);
      if (frame !== null) this.parts.watch.passed('write');
    }
  }

  private writeGate(): StandInGate | null {
    const { target, likelyBytes } = this.parts;
    const { standIn } = target;
    return standIn && new StandInGate(standIn, 1, 4 * likelyBytes);
  }

  /** Looks now and then whether what is read is still there and the target has room. */
  private async watchPaths(pieces: StageQueue<Piece>): Promise<void> {
    const { slots, target } = this.parts;
    const { path } = target;
    while (!pieces.isEnded && !this.stopping) {
      await Promise.race([sleepUs(roomCheckMs * 1000), pieces.ended]);
      if (pieces.isEnded || this.stopping) return;
      await slots.assertStillThere();
      const room = await roomOn(path).catch(() => null);
      if (room === null) throw new EngineError('target-went-away', { path });
      if (room.free <= room.reserve)
        throw new EngineError('only-reserve-left', {
          path,
          written: this.parts.watch.windows.bytesWritten.reduce((sum, bytes) => sum + bytes, 0),
        });
    }
  }

  /** Work of a stage on one frame, held for longer where a test asks for that. */
  private work<Value>(stage: TaskStage, work: () => Promise<Value>, isFrame = true): Promise<Value> {
    const { slowed } = this.parts;
    return this.parts.watch.busy(stage, async () => {
      const value = await work();
      if (isFrame && slowed?.stage === stage) await sleepUs(slowed.us);
      return value;
    });
  }
}

/** Puts pictures through a stage. Theirs are done with. */
async function throughStage(
  stage: PictureStage,
  pictures: readonly Frame[],
  slots: SlotPictures,
): Promise<Frame[]> {
  const made: Frame[] = [];
  for (const picture of pictures) {
    made.push(...(await stage.take(picture)));
    slots.pictures.release(picture);
  }
  return made;
}
