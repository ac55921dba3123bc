import { parentPort } from 'node:worker_threads';
import { AV_LOG_FATAL } from 'node-av/constants';
import { Log } from 'node-av/lib';
import { packetTableFrom } from '@/core/media/packetTable';
import { decodeSoundTable } from '@/core/media/soundTable';
import { monotonicUs } from '../clock';
import { errorCode, fileError } from '../errors';
import { PacedFile } from '../storage/pacedFile';
import { SlotSound } from './slotSound';
import { workOutSound } from './workOutSound';
import { soundViews, type FromSound, type SoundClip, type SoundJob, type ToSound } from './soundShared';
import type { SoundTrack } from './trackSound';

/** The thread that works out a run's sound. It waits for bytes and for room, and ends when all is worked out or it is told to. */
const tell = (message: FromSound) => parentPort?.postMessage(message);

/** Passed slots are told by a message in shared memory; it is looked for so often besides. */
const longestWaitMs = 50;
/** Of a take only its files are wanted, not where its pictures lie. */
const noPictures = packetTableFrom([]);

/** Does what may fail for a file, and says so in words. */
function inWords<Value>(path: string, work: () => Value): Value {
  try {
    return work();
  } catch (error) {
    throw errorCode(error) === null ? error : fileError(error, path);
  }
}

/** Files of a run's clips, each opened when it is first wanted. */
class Tracks {
  private readonly files: PacedFile[] = [];
  private readonly tracks = new Map<string, SoundTrack | null>();

  constructor(
    private readonly job: SoundJob,
    private readonly stop: Int32Array,
  ) {}

  of(media: string): SoundTrack | null {
    const known = this.tracks.get(media);
    if (known !== undefined) return known;
    const clip = this.job.clips.get(media);
    const track = clip ? this.open(clip) : null;
    this.tracks.set(media, track);
    return track;
  }

  private open({ path, setup, sound, pacing }: SoundClip): SoundTrack {
    const { direct } = this.job;
    const file = inWords(
      path,
      () => new PacedFile({ path, setup, packets: noPictures }, pacing, this.stop, direct),
    );
    this.files.push(file);
    return {
      name: path,
      setup: sound.setup,
      packets: decodeSoundTable(sound.packets),
      read: (offset, bytes) => inWords(path, () => file.readNow(offset, bytes)),
    };
  }

  close(): void {
    for (const file of this.files) void file.close();
  }
}

function work({ job, shared }: ToSound): void {
  const views = soundViews(shared);
  const tracks = new Tracks(job, views.stop);
  const sound = new SlotSound(job.parts, job.rate, (media) => tracks.of(media));
  try {
    workOutSound(job, sound, views, {
      now: monotonicUs,
      wait: (passed) => {
        Atomics.wait(views.passed, 0, passed, longestWaitMs);
      },
    });
  } catch (error) {
    tell({ type: 'failed', message: error instanceof Error ? error.message : String(error) });
  } finally {
    sound.close();
    tracks.close();
  }
}

Log.setLevel(AV_LOG_FATAL);
parentPort?.once('message', (message: ToSound | null) => {
  if (message) work(message);
});
tell({ type: 'up' });
