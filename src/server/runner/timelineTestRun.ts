import { causeLabel } from '@/core/playback/sentence';
import { scrubSentence, summariseScrub } from '@/core/scrub/analyse';
import { builtInGesture, fitted, type Gesture } from '@/core/scrub/gesture';
import { costsSentence } from '@/core/timeline/effectCosts';
import { rampResult, rampSentence } from '@/core/timeline/ramp';
import {
  getGesture,
  getTimelineTest,
  updateTimelineTest,
  type TimelineTestRow,
} from '@/db/queries/timelines';
import type {
  FromTimelineTest,
  TimelineTestProgress,
  TimelineTestRecord,
  TimelineTestResult,
  TimelineTestSpec,
  ToTimelineTest,
} from '@/engine/scrub/spec';
import { noteRunFaults } from '../clipFaults';
import { announce } from '../events';
import { playedSpec } from '../timelineMedia';
import type { LoadMeter } from './loadMeter';
import { beginMeasuring, measured, pidsOf } from './measuring';
import { persist } from './persist';
import { WatchedProcess, type BadEnd } from './watchedProcess';

export type TimelineTestEnd = { readonly kind: 'done' } | BadEnd;

interface Listener {
  onProgress(progress: TimelineTestProgress): void;
  onRecord(record: Partial<TimelineTestRecord>): void;
}

/** The process of a scrub trial, ramp or calibration under watch. */
export class TimelineTestHost extends WatchedProcess<FromTimelineTest, ToTimelineTest, TimelineTestEnd> {
  constructor(
    path: string,
    spec: TimelineTestSpec,
    private readonly listener: Listener,
    watchdogMs: number,
  ) {
    super(path, watchdogMs, 'frame');
    this.send({ type: 'start', spec });
  }

  protected askToCancel(): ToTimelineTest {
    return { type: 'cancel' };
  }

  protected onMessage(message: FromTimelineTest): void {
    this.progressed();
    switch (message.type) {
      case 'progress':
        this.listener.onProgress(message.progress);
        break;
      case 'record':
        this.listener.onRecord(message.record);
        break;
      case 'failed':
        this.end = { kind: 'failed', message: message.message, detail: message.detail };
        break;
      case 'finished':
        this.end = message.cancelled ? { kind: 'cancelled' } : { kind: 'done' };
        break;
    }
  }
}

export interface TimelineTestParts {
  readonly processPath: string;
  readonly watchdogMs: number;
  readonly onTrialPid: (pid: number | null) => void;
}

const nothing: TimelineTestRecord = { cold: null, requests: [], gesture: null, probes: [], costs: null };
/** A probe plays for as long as it was asked to, without a word in between. */
const longestSilenceMs = 90_000;

/** Takes one queued scrub trial, ramp or calibration to its end. */
export class TimelineTestRun {
  private host: TimelineTestHost | null = null;
  private cancelled = false;
  private record: TimelineTestRecord = nothing;
  private saving: Promise<void> = Promise.resolve();

  constructor(
    readonly trialId: string,
    private readonly parts: TimelineTestParts,
  ) {}

  cancel(): void {
    this.cancelled = true;
    this.host?.cancel();
  }

  async run(): Promise<void> {
    const test = await persist(() => getTimelineTest(this.trialId));
    if (
      !test ||
      !(await persist(() =>
        updateTimelineTest(test.id, ['queued'], { status: 'running', startedAt: new Date() }),
      ))
    )
      return;
    announce({ type: 'test-status', trialId: test.id, status: 'running' });
    const spec = await persist(() => specOf(test));
    if (!spec) {
      await closeTimelineTest(
        test,
        {
          kind: 'failed',
          message: 'The timeline of this trial or its gesture is gone. Start it again from another timeline.',
          detail: '',
        },
        null,
      );
      return;
    }
    const { conditions, load } = await beginMeasuring(
      test.rigId,
      () => pidsOf([this.host]),
      Object.values(test.subject.timeline.media).map(({ volumeId }) => volumeId),
    );
    const end = await this.measure(test, spec, load);
    await this.saving;
    await closeTimelineTest(
      { ...test, conditions, record: this.record },
      this.cancelled ? { kind: 'cancelled' } : end,
      load.summary(null),
    );
  }

  private async measure(
    { subject }: TimelineTestRow,
    spec: TimelineTestSpec,
    load: LoadMeter,
  ): Promise<TimelineTestEnd> {
    const host = new TimelineTestHost(
      this.parts.processPath,
      spec,
      {
        onProgress: (progress) => announce({ type: 'test-progress', trialId: this.trialId, progress }),
        onRecord: (change) => {
          this.keep(change);
          const { faults } = change;
          if (faults) this.save(() => noteRunFaults({ subject, clipId: null }, faults));
        },
      },
      Math.max(this.parts.watchdogMs, spec.settings.kind === 'ramp' ? longestSilenceMs : 0),
    );
    this.host = host;
    if (this.cancelled) host.cancel();
    return measured(this.trialId, host, load, this.parts.onTrialPid);
  }

  private keep(change: Partial<TimelineTestRecord>): void {
    this.record = { ...this.record, ...change };
    const { record } = this;
    this.save(() => updateTimelineTest(this.trialId, ['running'], { record }));
  }

  private save(step: () => Promise<unknown>): void {
    this.saving = this.saving.then(() => persist(step)).then(() => undefined);
    this.saving.catch(() => this.host?.cancel());
  }
}

async function specOf({ subject, settings }: TimelineTestRow): Promise<TimelineTestSpec | null> {
  const source = await playedSpec(subject);
  if (!source) return null;
  if (settings.kind !== 'scrub') return { source, settings, gesture: null };
  const gesture = await gestureOf(settings.gesture, subject.timeline);
  return gesture && { source, settings, gesture };
}

async function gestureOf(
  choice: Extract<TimelineTestSpec['settings'], { kind: 'scrub' }>['gesture'],
  { slots, rate }: TimelineTestRow['subject']['timeline'],
): Promise<Gesture | null> {
  if (choice.kind !== 'recorded') return builtInGesture(choice.kind, slots, rate, choice.seed, choice.speed);
  const kept = await getGesture(choice.gestureId);
  return kept && fitted(kept.gesture, slots);
}

/** Writes a test's end and judges what was measured. Serves finished runs and, after a restart, orphaned ones. */
export async function closeTimelineTest(
  test: TimelineTestRow,
  end: TimelineTestEnd | { readonly kind: 'interrupted'; readonly message: string },
  load: TimelineTestRow['load'],
): Promise<void> {
  const result = judge(test);
  const outcome =
    'message' in end ? end.message : end.kind === 'cancelled' ? 'Cancelled.' : sentenceOf(result);
  const reached = await persist(() =>
    updateTimelineTest(test.id, ['queued', 'running'], {
      status: end.kind,
      outcome,
      detail: 'detail' in end ? end.detail : null,
      load,
      result,
      conditions: test.conditions,
      record: test.record,
      progress: null,
      endedAt: new Date(),
    }),
  );
  if (reached) announce({ type: 'test-status', trialId: test.id, status: end.kind });
}

function judge({ settings, record }: TimelineTestRow): TimelineTestResult | null {
  if (!record) return null;
  switch (settings.kind) {
    case 'scrub':
      return record.requests.length > 0 ? { kind: 'scrub', summary: summariseScrub(record.requests) } : null;
    case 'ramp':
      return record.probes.length > 0
        ? { kind: 'ramp', ramp: rampResult(settings.family, settings.scales, record.probes) }
        : null;
    case 'costs':
      return record.costs && { kind: 'costs', costs: record.costs };
  }
}

/** The answer in a sentence; null where nothing was measured. */
function sentenceOf(result: TimelineTestResult | null): string | null {
  switch (result?.kind) {
    case 'scrub':
      return scrubSentence(result.summary);
    case 'ramp':
      return rampSentence(result.ramp, causeLabel);
    case 'costs':
      return costsSentence(result.costs);
    case undefined:
      return null;
  }
}
