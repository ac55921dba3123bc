import { quantity } from '@/core/format';
import type { OpeningSettings } from '@/core/kinds/opening';
import type { TimelineTrialProgress } from '@/core/kinds/shared/timeline';
import type { OpenedClip, OpeningRecord, OpeningStep } from '@/core/tasks/opening';
import { firstShown } from '@/core/timeline/flatten';
import { playbackRaster } from '../codec/processor';
import type { OpenTimeline } from '../timeline/openTimeline';
import { SlotAccess } from '../timeline/slotAccess';
import { SlotProcessor } from '../timeline/slotProcessor';
import type { TimelineSpec } from '../timeline/spec';
import { laneClips } from '../timeline/laneClips';
import { Lane, LaneSignals, type LaneHeard } from './lane';
import type { LaneClip, ToLane } from './laneShared';

/** What is saved of an opening is told at most so often, ms. */
const tellEveryMs = 500;

/**
 * Opens a timeline as an editor is shown it: headers of what its first picture needs and that picture, then the thumbnails and the
 * sound peaks of all its clips, several clips at a time.
 */
export class OpeningRun {
  private readonly signals = new LaneSignals();
  private first: OpeningStep | null = null;
  private readonly clips: OpenedClip[];
  private readonly laneClips: readonly LaneClip[];
  private readonly shown: readonly LaneClip[];
  private readonly slot: number;
  private readonly toPicture: boolean;
  private toldMs = 0;

  constructor(
    private readonly opened: OpenTimeline,
    private readonly source: TimelineSpec,
    private readonly settings: OpeningSettings,
    /** Of `openingLane`, bundled. */
    private readonly lanePath: URL,
    private readonly onRecord: (record: OpeningRecord) => void,
    private readonly onProgress: (progress: TimelineTrialProgress) => void,
  ) {
    const { timeline, media } = source;
    const { slot, shown } = firstShown(timeline, new Set(opened.media.keys()));
    this.slot = slot;
    const ids = Object.keys(media);
    this.laneClips = laneClips(opened, source);
    // Where each clip is opened to its own first picture, none of them waits for that of the timeline.
    this.toPicture = settings.each === 'picture';
    const first = this.toPicture ? new Set<string>() : shown;
    this.shown = this.laneClips.filter(({ index }) => first.has(ids[index] ?? ''));
    this.clips = ids.map((id) => ({
      media: id,
      name: timeline.media[id]?.name ?? id,
      isFirst: first.has(id),
      header: null,
      picture: null,
      pictures: null,
      sound: null,
      problem: null,
      lane: null,
    }));
  }

  /** Ends the run between two pictures or blocks of sound. */
  stop(): void {
    this.signals.end();
  }

  /** @throws EngineError where a file cannot be read, or the first picture cannot be made */
  async run(): Promise<void> {
    const { timeline } = this.source;
    const { threads } = this.settings;
    const lanes = this.startLanes();
    const raster = playbackRaster(timeline, 'full');
    const access = new SlotAccess(
      timeline,
      this.opened.media,
      new SlotProcessor(raster, this.opened, { threads }),
      threads,
      this.opened.devices,
    );
    try {
      await Promise.all(lanes.map(({ up }) => up));
      this.signals.begin();
      const [lane] = lanes as [Lane, ...Lane[]];
      for (const clip of this.shown) if (!this.signals.isEnded) await this.on(0, clip, lane, 'header');
      if (!this.signals.isEnded && !this.toPicture) await this.showFirst(access);
      await this.openAll(lanes);
    } finally {
      this.stop();
      this.tell(true);
      await Promise.all(lanes.map((lane) => lane.end()));
      await access.close();
    }
  }

  private startLanes(): Lane[] {
    const { threads, lanes } = this.settings;
    const how = { threads, direct: false };
    const hear = (message: LaneHeard) => this.hear(message);
    return Array.from(
      { length: lanes },
      () => new Lane(this.lanePath, this.signals, how, hear, () => this.tellProgress()),
    );
  }

  private async showFirst(access: SlotAccess): Promise<void> {
    const fromMs = this.nowMs();
    const fetched = await access.fetch(this.slot);
    if (!fetched) return;
    access.release(fetched.picture);
    // A picture that lacks one of its frames is none.
    if (fetched.isRefused) return;
    this.first = { fromMs, toMs: this.nowMs(), readMs: fetched.readUs / 1000, bytes: fetched.bytes };
    this.tell();
  }

  /** Every clip on the lane that is free first; those whose header is open on the first one, which begins with them. */
  private async openAll(lanes: readonly Lane[]): Promise<void> {
    const open = new Set(this.shown);
    const waiting = this.laneClips.filter((clip) => !open.has(clip));
    await Promise.all(
      lanes.map(async (lane, at) => {
        for (const clip of at === 0 ? this.shown : [])
          if (!this.signals.isEnded && !this.clips[clip.index]?.problem)
            await this.on(at, clip, lane, 'whole');
        for (let clip = waiting.shift(); clip && !this.signals.isEnded; clip = waiting.shift())
          await this.on(at, clip, lane, this.toPicture ? 'picture' : 'whole');
      }),
    );
  }

  private on(at: number, clip: LaneClip, lane: Lane, type: Exclude<ToLane['type'], 'end'>): Promise<void> {
    this.change(clip.index, { lane: at });
    return lane.do({ type, clip });
  }

  private change(index: number, change: Partial<OpenedClip>): void {
    const clip = this.clips[index];
    if (clip) this.clips[index] = { ...clip, ...change };
  }

  private hear(message: LaneHeard): void {
    if (message.type === 'step') this.change(message.index, { [message.part]: message.step });
    else if (message.problem !== null) this.change(message.index, { problem: message.problem });
    this.tell();
  }

  private nowMs(): number {
    return this.signals.us / 1000;
  }

  private tell(isLast = false): void {
    this.tellProgress();
    if (!isLast && Date.now() - this.toldMs < tellEveryMs) return;
    this.toldMs = Date.now();
    this.onRecord({ lanes: this.settings.lanes, first: this.first, clips: [...this.clips] });
  }

  private tellProgress(): void {
    const done = this.clips.filter(
      ({ problem, picture, pictures }) => problem !== null || picture || pictures,
    ).length;
    const total = this.clips.length;
    const share = total > 0 ? done / total : 0;
    this.onProgress({
      share,
      note: this.toPicture
        ? `${done} of ${total} ${total === 1 ? 'clip' : 'clips'} with ${total === 1 ? 'its' : 'their'} first picture`
        : this.first
          ? `${done} of ${total} ${total === 1 ? 'clip' : 'clips'} with thumbnails, first picture after ${quantity(Math.round(this.first.toMs), 'ms')}`
          : 'reaching the first picture',
      msLeft: done > 0 ? (this.nowMs() * (1 - share)) / share : null,
    });
  }
}
