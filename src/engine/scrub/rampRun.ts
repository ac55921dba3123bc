import { nextLevel, type RampProbe } from '@/core/timeline/ramp';
import { graded, sideBySide } from '@/core/timeline/loads';
import { lengthOf, type Timeline } from '@/core/timeline/model';
import { causeBit, chargesByDrops } from '@/core/playback/attribute';
import { defaultBufferDepths } from '@/core/playback/slots';
import { summarise } from '@/core/playback/summary';
import { toNumber } from '@/core/time/rational';
import { EngineError } from '../errors';
import { Player } from '../playback/player';
import { presenterThread } from '../playback/presenter';
import type { PlaybackScale } from '../playback/spec';
import { ViewerTap } from '../playback/viewerTap';
import type { OpenTimeline } from '../timeline/openTimeline';
import { openCourse } from '../timeline/openCourse';
import type { PlaybackSettings } from '@/core/playback/settings';
import type { RampSettings } from '@/core/kinds/ramp';
import type { TimelineTrialProgress } from '@/core/kinds/shared/timeline';

/** Adds streams or grades to a clip until slots drop, at each playback scale, and finds the edge between in few steps. */
export class RampRun {
  private player: Player | null = null;
  private stopped = false;

  constructor(
    private readonly opened: OpenTimeline,
    private readonly timeline: Timeline,
    private readonly settings: RampSettings,
    private readonly onProbe: (probes: readonly RampProbe[]) => void,
    private readonly onProgress: (progress: TimelineTrialProgress) => void,
  ) {}

  stop(): void {
    this.stopped = true;
    this.player?.stop();
  }

  async run(): Promise<void> {
    const { scales, most, seconds } = this.settings;
    const probes: RampProbe[] = [];
    // About so many probes are needed for one scale: doubling up and halving down.
    const expected = scales.length * Math.max(2, 2 * Math.log2(most));
    for (const scale of scales) {
      for (;;) {
        const own = probes.filter((probe) => probe.scale === scale);
        const level = nextLevel(own, most);
        if (level === null || this.stopped) break;
        const share = Math.min(0.98, probes.length / expected);
        this.onProgress({
          share,
          note: `${scale} scale, ${level} ${this.settings.family}`,
          msLeft: (expected - probes.length) * (seconds * 1000 + 400),
        });
        const probe = await this.probe(scale, level);
        if (this.stopped) break;
        probes.push(probe);
        this.onProbe(probes);
      }
    }
  }

  private async probe(scale: PlaybackScale, level: number): Promise<RampProbe> {
    const timeline = rampLoad(this.timeline, this.settings, level);
    const length = lengthOf(timeline);
    const slots = rampSlots(timeline, this.settings);
    // A short clip goes round: its seam is a jump of every stream, as a loop has it.
    const course = { from: 0, speed: 1, slots, loop: slots > length ? { from: 0, to: length } : null };
    const settings: PlaybackSettings = {
      scale,
      policy: 'hold-time',
      threads: this.settings.threads,
      warm: this.settings.warm,
      processing: true,
      buffers: defaultBufferDepths,
      slotLimit: null,
      faults: [],
    };
    const { plan, source, recorder, slotUs } = await openCourse(this.opened, timeline, course, settings);
    this.player = new Player({
      source,
      graph: plan.graph,
      recorder,
      settings,
      viewer: new ViewerTap(() => undefined),
      onStart: () => undefined,
      slotUs,
      openPresenter: presenterThread(new URL('./presenter.mjs', import.meta.url)),
    });
    if (this.stopped) this.player.stop();
    await this.player.run();
    const { failure } = source;
    await source.close();
    if (failure && !this.stopped) throw failure;
    const trace = recorder.finished();
    const { summary } = summarise({
      trace,
      graph: plan.graph,
      rate: timeline.rate,
      policy: 'hold-time',
      buffers: settings.buffers,
      scale,
      scaleCosts: null,
    });
    // What cannot be decoded drops at every level: it says nothing of how much the rig carries.
    const { [causeBit.media]: refused = 0, ...late } = summary.attribution?.countByCharge ?? {};
    return {
      scale,
      level,
      slots: trace.length,
      dropped: summary.dropped - refused,
      charge: chargesByDrops(late)[0]?.charge ?? 0,
    };
  }
}

/** A level of a ramp: the timeline's first clip, multiplied or graded. */
export function rampLoad({ media }: Timeline, { family }: RampSettings, level: number): Timeline {
  const [entry] = Object.entries(media);
  if (!entry) throw new EngineError('no-clip-to-add');
  const clip = { id: entry[0], ref: entry[1] };
  return family === 'streams' ? sideBySide(clip, level) : graded(clip, level);
}

/** Slots that one probe plays. */
export function rampSlots({ rate }: Timeline, { seconds }: RampSettings): number {
  return Math.max(2, Math.round(seconds * toNumber(rate)));
}
