import { parentPort, workerData } from 'node:worker_threads';
import { AV_LOG_FATAL } from 'node-av/constants';
import { Log, type FormatContext } from 'node-av/lib';
import type { OpeningPart, OpeningStep } from '@/core/tasks/opening';
import { monotonicUs } from '../clock';
import { errorCode, EngineError } from '../errors';
import { FrameAccess } from '../codec/frameAccess';
import { audioPeaks, makeStrip, openedInput } from '../library/preview';
import type { FromLane, LaneClip, LaneStart, ToLane } from './laneShared';
import { PacedFile } from '../storage/pacedFile';

/** The thread that opens one clip after the other: what the container says, its thumbnails, its sound peaks. */
const { threads, direct, stop: stopWord, begun } = workerData as LaneStart;
const stop = new Int32Array(stopWord);
const beginUs = new Float64Array(begun);

/** Ends what is under way when the run is stopped. */
class Stopped extends Error {}

interface OpenClip {
  readonly file: PacedFile;
  readonly input: FormatContext;
}
/** Clips of which so far only the header was asked for. */
const waiting = new Map<number, OpenClip>();

const tell = (message: FromLane) => parentPort?.postMessage(message);

/** Progress is told now and then: a long clip is no hanging one. */
const tellEveryUs = 250_000;
let toldUs = 0;
function moved(): void {
  if (Atomics.load(stop, 0) !== 0) throw new Stopped();
  if (monotonicUs() - toldUs < tellEveryUs) return;
  toldUs = monotonicUs();
  tell({ type: 'moved' });
}

const now = () => (monotonicUs() - (beginUs[0] as number)) / 1000;

/** Does a part and tells what it took of the file. @param fromMs when it was begun @returns what it made; nothing is told of a part that there is none of */
async function stepped<Made>(
  { index }: LaneClip,
  file: PacedFile,
  part: OpeningPart,
  work: () => Promise<Made | null>,
  fromMs = now(),
): Promise<Made | null> {
  const { readUs, bytes } = file.cost;
  const made = await work();
  const step: OpeningStep = {
    fromMs,
    toMs: now(),
    readMs: (file.cost.readUs - readUs) / 1000,
    bytes: file.cost.bytes - bytes,
    ...(part === 'header' && file.firstByteUs !== null
      ? { firstByteMs: (file.firstByteUs - (beginUs[0] as number)) / 1000 - fromMs }
      : {}),
  };
  if (made !== null) tell({ type: 'step', index, part, step });
  return made;
}

async function openHeader(clip: LaneClip): Promise<OpenClip> {
  const fromMs = now();
  const file = new PacedFile(clip, clip.pacing, stop, direct);
  const input = await stepped(
    clip,
    file,
    'header',
    () => openedInput((container) => file.openAs(container)),
    fromMs,
  );
  if (input) return { file, input };
  await file.close();
  throw file.failure ?? new EngineError('container-unreadable');
}

async function close({ file, input }: OpenClip): Promise<void> {
  await input.closeInput();
  await file.close();
}

/** What reads frames from a file that is closed later. */
const bytesOf = (file: PacedFile) => ({
  read: (offset: number, size: number) => file.read(offset, size),
  close: () => Promise.resolve(),
});

async function openToPicture(clip: LaneClip): Promise<void> {
  const open = await openHeader(clip);
  const { file } = open;
  try {
    const shown = await stepped(clip, file, 'picture', async () => {
      const reader = await FrameAccess.open(clip, bytesOf(file), threads);
      try {
        const frame = await reader.frame(0);
        frame?.free();
        return frame;
      } finally {
        await reader.close();
      }
    });
    if (file.failure) throw file.failure;
    if (!shown) throw new EngineError('no-first-picture');
  } finally {
    await close(open);
  }
}

async function makeWhole(clip: LaneClip): Promise<void> {
  const open = waiting.get(clip.index) ?? (await openHeader(clip));
  waiting.delete(clip.index);
  const { file, input } = open;
  const bytes = bytesOf(file);
  try {
    await stepped(clip, file, 'pictures', async () =>
      makeStrip(clip, await FrameAccess.open(clip, bytes, threads), 1, moved),
    );
    await stepped(clip, file, 'sound', () => audioPeaks(input, moved));
    if (file.failure) throw file.failure;
  } finally {
    await close(open);
  }
}

async function perform(job: ToLane): Promise<void> {
  if (job.type === 'end') {
    for (const open of waiting.values()) await close(open);
    process.exit(0);
  }
  const { clip } = job;
  let problem: string | null = null;
  try {
    if (job.type === 'whole') await makeWhole(clip);
    else if (job.type === 'picture') await openToPicture(clip);
    else waiting.set(clip.index, await openHeader(clip));
  } catch (error) {
    const code = errorCode(error);
    if (code !== null)
      return tell({ type: 'failed', path: clip.path, code, message: (error as Error).message });
    // What cannot be taken apart or decoded is the clip's; the others go on.
    if (!(error instanceof Stopped)) problem = error instanceof Error ? error.message : String(error);
  }
  tell({ type: 'done', index: clip.index, problem });
}

Log.setLevel(AV_LOG_FATAL);
parentPort?.on('message', (job: ToLane) => void perform(job));
tell({ type: 'up' });
