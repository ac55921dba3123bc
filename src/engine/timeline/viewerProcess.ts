import { AV_LOG_FATAL } from 'node-av/constants';
import { Log } from 'node-av/lib';
import type { ColdWay } from '@/core/media/coldProof';
import { courseLength, courseSlot, flattenSlot, type Course } from '@/core/timeline/flatten';
import { lengthOf } from '@/core/timeline/model';
import { defaultBufferDepths } from '@/core/playback/slots';
import { monotonicUs } from '../clock';
import { failureOf } from '../errors';
import { Player } from '../playback/player';
import { presenterThread } from '../playback/presenter';
import { playbackRaster } from '../codec/processor';
import type { PlaybackScale } from '../playback/spec';
import { ViewerTap } from '../playback/viewerTap';
import { openCourse } from './openCourse';
import { OpenTimeline } from './openTimeline';
import { SlotAccess, type FrameOrigin } from './slotAccess';
import { SlotProcessor } from './slotProcessor';
import type { TimelineSpec } from './spec';
import { idleState, type FromViewer, type ShownFrame, type ToViewer, type ViewerState } from './viewerSpec';
import type { PlaybackSettings } from '@/core/playback/settings';

/**
 * The process behind a page's viewer: shows any slot, and plays with the player
 * that trials use. Reads through the system's cache, or from the volume at every jump where that is asked for.
 */
const tap = { width: 800, leastIntervalMs: 0, quality: 5 };
/** Slots planned at once; a longer run goes on in pieces. */
const mostPlanned = 3_000;
const stateIntervalMs = 120;
/** Said beside a picture that lacks what could not be decoded. */
const refusedHere =
  'The decoder makes no picture of a frame that is due here: this picture lacks it. Play a trial to learn of all such frames and why; Media then lists them with the clip.';

function tell(message: FromViewer): void {
  if (process.connected) process.send?.(message);
}

class Viewer {
  private opened: OpenTimeline | null = null;
  private access: SlotAccess | null = null;
  /** The slot that is shown, or played. */
  private slot = 0;
  /** The slot that the page wants to see. It may lie beyond the end until the edit comes that makes room for it, and stands while a request for it is overtaken by an edit. */
  private wanted = 0;
  /** Grows with every request: what is older than the newest is stale. */
  private newest = 0;
  private run = 0;
  /** How it plays; null while it does not. */
  private going: { readonly speed: number; readonly loop: { from: number; to: number } | null } | null = null;
  private player: Player | null = null;
  /** One request works at a time; those that are stale by then pass at once. */
  private turn: Promise<void> = Promise.resolve();
  private readonly stillTap = new ViewerTap(() => undefined, tap);

  /** The jump whose picture is wanted; 0 once it is shown. */
  private jump = 0;

  constructor(
    private spec: TimelineSpec,
    private scale: PlaybackScale,
    private cold: boolean,
  ) {}

  private state(told: Partial<ViewerState>): ViewerState {
    return { ...idleState, run: this.run, slot: this.slot, cold: this.cold, ...told };
  }

  /** Makes all earlier requests stale and does this one when they have let go. */
  private inTurn(work: (isStale: () => boolean) => Promise<void>): void {
    const request = ++this.newest;
    this.player?.stop();
    this.turn = this.turn
      .then(() => work(() => this.newest !== request))
      .catch((error: unknown) => this.fail(error));
  }

  show(slot: number, jump: number): void {
    this.wanted = slot;
    this.jump = jump;
    this.going = null;
    this.inTurn((isStale) => this.showWanted(isStale));
  }

  stop(): void {
    this.going = null;
    this.inTurn((isStale) => this.showWanted(isStale));
  }

  play(run: number, from: number, speed: number, loop: Course['loop']): void {
    this.run = run;
    this.going = { speed, loop: loop ?? null };
    this.slot = from;
    this.inTurn((isStale) => this.playOn(isStale));
  }

  /** Goes on with an edited timeline of the same media. */
  edit(timeline: TimelineSpec['timeline'], looks: TimelineSpec['looks']): void {
    this.going = null;
    this.inTurn(async (isStale) => {
      const sameLooks = Object.keys(looks).join() === Object.keys(this.spec.looks).join();
      this.spec = { ...this.spec, timeline, looks };
      if (sameLooks) this.access?.setTimeline(timeline);
      else await this.close();
      if (this.raster() !== this.openedRaster) await this.closeAccess();
      await this.showWanted(isStale);
    });
  }

  changeScale(scale: PlaybackScale): void {
    if (scale === this.scale) return;
    this.inTurn(async (isStale) => {
      this.scale = scale;
      await this.closeAccess();
      await this.goOn(isStale);
    });
  }

  replace({ spec, scale, cold }: Extract<ToViewer, { type: 'open' }>): void {
    this.inTurn(async (isStale) => {
      await this.close();
      this.spec = spec;
      this.scale = scale;
      this.cold = cold;
      await this.goOn(isStale);
    });
  }

  private raster(): string {
    return JSON.stringify(playbackRaster(this.spec.timeline, this.scale));
  }

  private openedRaster = '';

  private async open(): Promise<OpenTimeline> {
    this.opened ??= await OpenTimeline.open(this.spec, { warm: !this.cold, depth: 'kept' });
    return this.opened;
  }

  private processor(opened: OpenTimeline): SlotProcessor {
    return new SlotProcessor(playbackRaster(this.spec.timeline, this.scale), opened);
  }

  private async showWanted(isStale: () => boolean): Promise<void> {
    if (isStale()) return;
    const total = lengthOf(this.spec.timeline);
    const slot = Math.max(0, Math.min(total - 1, this.wanted));
    this.slot = slot;
    const opened = await this.open();
    if (!this.access) {
      this.access = new SlotAccess(
        this.spec.timeline,
        opened.media,
        this.processor(opened),
        0,
        opened.devices,
      );
      this.openedRaster = this.raster();
    }
    const begun = monotonicUs();
    const ways = this.cold ? await this.emptyFor(slot, opened) : null;
    const emptiedMs = (monotonicUs() - begun) / 1000;
    const fetched = await this.access.fetch(slot, isStale);
    if (!fetched) return;
    const jpeg = await this.stillTap.encode(fetched.picture);
    this.access.release(fetched.picture);
    if (isStale()) return;
    tell({
      type: 'state',
      jpeg,
      state: this.state({
        tookMs: {
          read: fetched.readUs / 1000,
          decode: fetched.decodeUs / 1000,
          process: fetched.processUs / 1000,
        },
        jump: this.jump,
        emptiedMs,
        frames: fetched.origins.map((origin) => this.shownFrame(origin, ways)),
        remark: fetched.isRefused ? refusedHere : null,
      }),
    });
    this.jump = 0;
  }

  /** Has what a slot reads come from its volumes. */
  private emptyFor(slot: number, opened: OpenTimeline): Promise<ReadonlyMap<string, ColdWay>> {
    const { layers, alongside } = flattenSlot(this.spec.timeline, slot);
    return opened.emptyCaches([...layers, ...alongside].flatMap(({ media }) => media ?? []));
  }

  /** @param ways how media are read; null: through the cache as it is */
  private shownFrame(
    { media, frame, bytes, packets }: FrameOrigin,
    ways: ReadonlyMap<string, ColdWay> | null,
  ): ShownFrame {
    const { volumeName = '', standIn = null } = this.spec.media[media] ?? {};
    const from = packets === 0 ? 'kept' : (ways?.get(media) ?? 'cache');
    return { media, frame, bytes, from, volume: volumeName, simulated: standIn !== null };
  }

  /** Looked at otherwise, it plays on where it played, and shows the slot that was wanted where it stood. */
  private async goOn(isStale: () => boolean): Promise<void> {
    if (this.going) await this.playOn(isStale);
    else await this.showWanted(isStale);
  }

  /** Plays on from the slot that is shown, as it goes. */
  private async playOn(isStale: () => boolean): Promise<void> {
    if (!this.going) return;
    const { speed, loop } = this.going;
    const total = lengthOf(this.spec.timeline);
    let from = this.slot;
    if (this.cold) await (await this.open()).emptyCaches();
    while (!isStale()) {
      const left = loop ? mostPlanned : Math.min(mostPlanned, courseLength(total, from, speed));
      if (left < 1) break;
      const course: Course = { from, speed, slots: left, loop };
      await this.playPiece(course, isStale);
      from = loop ? courseSlot(course, left) : from + left * speed;
    }
    if (!isStale()) this.going = null;
    await this.showWanted(isStale);
  }

  private async playPiece(course: Course, isStale: () => boolean): Promise<void> {
    const settings: PlaybackSettings = {
      scale: this.scale,
      policy: 'hold-time',
      threads: 0,
      warm: !this.cold,
      processing: true,
      buffers: defaultBufferDepths,
      slotLimit: null,
      faults: [],
    };
    const { plan, source, recorder, slotUs } = await openCourse(
      await this.open(),
      this.spec.timeline,
      course,
      settings,
    );
    const state = (jpeg: Uint8Array | null): void => {
      const { player } = this;
      if (!player || isStale()) return;
      tell({
        type: 'state',
        jpeg,
        state: this.state({
          playing: true,
          speed: course.speed,
          shown: recorder.shown,
          dropped: recorder.dropped,
          achievedRate: player.achievedRate,
          buffers: player.depths,
        }),
      });
    };
    const viewer = new ViewerTap((slot, jpeg) => {
      if (isStale()) return;
      this.slot = courseSlot(course, slot);
      this.wanted = this.slot;
      state(jpeg);
    }, tap);
    viewer.setViewers(1);
    const timer = setInterval(() => state(null), stateIntervalMs);
    try {
      if (isStale()) return;
      this.player = new Player({
        source,
        graph: plan.graph,
        recorder,
        viewer,
        settings,
        onStart: () => undefined,
        slotUs,
        openPresenter: presenterThread(new URL('./presenter.mjs', import.meta.url)),
      });
      await this.player.run();
    } finally {
      clearInterval(timer);
      this.player = null;
      await viewer.finish();
      await source.close();
    }
  }

  private async closeAccess(): Promise<void> {
    await this.access?.close();
    this.access = null;
  }

  private async close(): Promise<void> {
    await this.closeAccess();
    await this.opened?.close();
    this.opened = null;
  }

  private fail(error: unknown): void {
    const { message } = failureOf(error);
    tell({ type: 'state', jpeg: null, state: this.state({ problem: message }) });
  }
}

let viewer: Viewer | null = null;
/** What was asked for before there was a timeline. */
let first = { slot: 0, jump: 0 };
Log.setLevel(AV_LOG_FATAL);
function obey(message: ToViewer): void {
  if (message.type === 'open') {
    if (viewer) viewer.replace(message);
    else {
      viewer = new Viewer(message.spec, message.scale, message.cold);
      viewer.show(first.slot, first.jump);
    }
    return;
  }
  switch (message.type) {
    case 'edit':
      viewer?.edit(message.timeline, message.looks);
      break;
    case 'show':
      if (viewer) viewer.show(message.slot, message.jump);
      else first = message;
      break;
    case 'play':
      viewer?.play(message.run, message.from, message.speed, message.loop);
      break;
    case 'stop':
      viewer?.stop();
      break;
    case 'scale':
      viewer?.changeScale(message.scale);
      break;
  }
}

process.on('message', (message: ToViewer) => obey(message));
process.on('disconnect', () => process.exit(0));
