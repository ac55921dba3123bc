import { parentPort, workerData } from 'node:worker_threads';
import { AV_LOG_FATAL } from 'node-av/constants';
import { Log, type FormatContext } from 'node-av/lib';
import type { OpeningPart, OpeningStep } from '@/core/tasks/opening';
import { monotonicUs } from '../clock';
import { errorCode, EngineError } from '../errors';
import { FrameReader } from '../media/frameReader';
import { audioPeaks, makeStrip, openedInput } from '../media/preview';
import type { FromLane, LaneClip, LaneStart, ToLane } from './laneShared';
import { PacedFile } from './pacedFile';

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

/** Does a part and tells what it took of the file. @returns what it made; nothing is told of a part that there is none of */
async function stepped<Made>(
  { index }: LaneClip,
  file: PacedFile,
  part: OpeningPart,
  work: () => Promise<Made | null>,
): Promise<Made | null> {
  const now = () => (monotonicUs() - (beginUs[0] as number)) / 1000;
  const [fromMs, readUs, bytes] = [now(), file.cost.readUs, file.cost.bytes];
  const made = await work();
  const step: OpeningStep = {
    fromMs,
    toMs: now(),
    readMs: (file.cost.readUs - readUs) / 1000,
    bytes: file.cost.bytes - bytes,
  };
  if (made !== null) tell({ type: 'step', index, part, step });
  return made;
}

async function openHeader(clip: LaneClip): Promise<OpenClip> {
  const file = new PacedFile(clip.path, clip.pacing, stop, direct);
  const input = await stepped(clip, file, 'header', () => openedInput((container) => file.openAs(container)));
  if (input) return { file, input };
  await file.close();
  throw file.failure ?? new EngineError('container-unreadable');
}

async function close({ file, input }: OpenClip): Promise<void> {
  await input.closeInput();
  await file.close();
}

async function makeWhole(clip: LaneClip): Promise<void> {
  const open = waiting.get(clip.index) ?? (await openHeader(clip));
  waiting.delete(clip.index);
  const { file, input } = open;
  const bytes = {
    read: (offset: number, size: number) => file.read(offset, size),
    close: () => Promise.resolve(),
  };
  try {
    await stepped(clip, file, 'pictures', async () =>
      makeStrip(clip, await FrameReader.open(clip, bytes, threads), 1, moved),
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
