import { tmpdir } from 'node:os';
import { avGetPixFmtFromName } from 'node-av/lib';
import { AV_CODEC_FLAG_GLOBAL_HEADER } from 'node-av/constants';
import type { TaskProgress } from '@/core/kinds/shared/task';
import { likelyBytes } from '@/core/tasks/exportCodecs';
import { toNumber } from '@/core/time/rational';
import { planCourse } from '@/core/timeline/course';
import { CodecEncoder } from '../codec/pictureEncoder';
import { OpenTimeline } from '../timeline/openTimeline';
import type { CourseSpec } from '../timeline/spec';
import { AheadWriter } from './aheadFile';
import { ProgressMeter, reportMs } from './progressMeter';
import { assertRoomFor } from './scratch';
import { SlotPictures } from './slotPictures';
import type { TaskSpec } from './spec';
import { encoderChoice, encoderOf } from './taskEncoder';
import { ThreadOwners } from './threadOwners';

/** Encodes in software what a stand-in encoder gives out later. Nothing of it is measured. */
export class EncodeAheadRun {
  private stopping = false;
  private frames = 0;
  private readonly meter = new ProgressMeter();

  constructor(
    private readonly spec: TaskSpec,
    private readonly onProgress: (progress: TaskProgress) => void,
  ) {}

  stop(): void {
    this.stopping = true;
  }

  /** @throws EngineError saying what stopped it */
  async run(): Promise<void> {
    const { output, source, threads, depth, fields, ahead } = this.spec;
    const { timeline, course } = source;
    if (!ahead) return;
    await assertRoomFor(
      tmpdir(),
      likelyBytes(output, {
        ...timeline,
        frames: course.slots,
        seconds: course.slots / toNumber(timeline.rate),
      }),
    );
    const told = encoderOf(this.spec);
    const kept = await AheadWriter.open(ahead.folder);
    const opened = await OpenTimeline.open(withoutStandIns(source), { warm: true, depth, fields });
    const slots = new SlotPictures(timeline, planCourse(timeline, course, opened.tables), opened, {
      pixelFormat: avGetPixFmtFromName(told.pixelFormat),
      threads,
      owners: new ThreadOwners(),
    });
    const encoder = await CodecEncoder.open(encoderChoice(this.spec, told, [AV_CODEC_FLAG_GLOBAL_HEADER]));
    const reporter = setInterval(() => this.report(), reportMs);
    try {
      for await (const picture of slots.inTurn(() => this.stopping)) {
        await encoder.send(picture);
        await kept.add(await encoder.received(Infinity));
        this.frames++;
      }
      if (this.stopping) return;
      if (slots.failure) throw slots.failure;
      await encoder.finish();
      await kept.add(await encoder.received(Infinity));
      await kept.close(encoder);
    } finally {
      clearInterval(reporter);
      this.report();
      await kept.abandon();
      encoder.free();
      await slots.close();
      await opened.close();
    }
  }

  private report(): void {
    this.onProgress({
      phase: 'preparing',
      ...this.meter.at(this.frames, this.spec.source.course.slots),
      busiest: null,
    });
  }
}

/** Volumes are not held to their models while nothing is measured. */
function withoutStandIns(source: CourseSpec): CourseSpec {
  const media = Object.entries(source.media).map(([id, one]) => [id, { ...one, standIn: null }] as const);
  return { ...source, media: Object.fromEntries(media) };
}
