import type { RunFaults } from '@/core/media/faults';
import { judgeSelfCheck } from '@/core/playback/selfCheck';
import { rigSpan, type RigSpan } from '@/core/playback/rigSpans';
import { slotState } from '@/core/playback/slots';
import { summarise, type SummaryInput } from '@/core/playback/summary';
import { decodeTrace } from '@/core/playback/trace';
import { chargeParts, fewerStreams, type PartTimes } from '@/core/timeline/parts';
import { TimeLeftEstimator } from '@/core/tasks/timeLeft';
import { getClip, getPacketTable } from '@/db/queries/clips';
import { saveBestPulse } from '@/db/queries/rigs';
import { getTrial, listSamples, updateTrial, type TrialRow } from '@/db/queries/trials';
import type { TrialConditions, TrialStatus } from '@/db/schema';
import { expectedDrops } from '@/engine/playback/faults';
import type { LiveCounters, RunConditions, RunFindings, TrialSpec } from '@/engine/playback/spec';
import { join } from 'node:path';
import { noteRunFaults } from '../clipFaults';
import { announce, stateLetters } from '../events';
import { rateOf } from '@/core/playback/subject';
import { rigChoicesOf } from '../rigChoices';
import { playedGraph, playedSpec } from '../timelineMedia';
import { loadTrace, storeTraceBatch } from '../traces';
import type { LoadMeter } from './loadMeter';
import { beginMeasuring, noteLoad, pidsOf, sampleIntervalMs } from './measuring';
import { persist } from './persist';
import type { PictureServer } from './pictureServer';
import { TrialHost, type TrialEnd } from './trialHost';

export interface TrialRunParts {
  readonly trialPath: string;
  readonly pictures: PictureServer;
  readonly watchdogMs: number;
  /** Told the process id of the running trial, null when it ended. */
  readonly onTrialPid: (pid: number | null) => void;
}

/** Takes one queued trial to its end: measures in a process of its own, saves as it goes, then judges. */
export class TrialRun {
  private host: TrialHost | null = null;
  private conditions: TrialConditions | null = null;
  private partTimes: PartTimes | null = null;
  private load: LoadMeter | null = null;
  private readonly timeLeft = new TimeLeftEstimator();
  private saving: Promise<void> = Promise.resolve();
  private cancelRequested = false;

  constructor(
    readonly trialId: string,
    private readonly parts: TrialRunParts,
  ) {}

  cancel(): void {
    this.cancelRequested = true;
    this.host?.cancel();
  }

  setViewers(count: number): void {
    this.host?.setViewers(count);
  }

  async run(): Promise<void> {
    const trial = await persist(() => getTrial(this.trialId));
    if (
      !trial ||
      !(await persist(() => updateTrial(trial.id, ['queued'], { status: 'running', startedAt: new Date() })))
    )
      return;
    announce({ type: 'trial-status', trialId: trial.id, status: 'running' });
    const spec = await persist(() => this.buildSpec(trial));
    if (!spec) {
      await this.close(trial, {
        kind: 'failed',
        message: `The ${trial.subject.timeline ? 'timeline' : 'clip'} of this trial is no longer in the library. ${trial.subject.timeline ? 'Play another timeline.' : 'Scan its volume and start the trial again.'}`,
        detail: '',
      });
      return;
    }
    const volumeIds = trial.subject.timeline
      ? Object.values(trial.subject.timeline.media).map(({ volumeId }) => volumeId)
      : [trial.subject.volumeId];
    const { conditions, load } = await beginMeasuring(trial.rigId, () => pidsOf([this.host]), volumeIds);
    this.conditions = { ...conditions, run: null };
    this.load = load;
    const end = await this.measure(trial, spec);
    await this.saving;
    await this.close(trial, end);
  }

  private async buildSpec(trial: TrialRow): Promise<TrialSpec | null> {
    if (trial.subject.timeline) {
      const spec = await playedSpec(trial.subject);
      return (
        spec && {
          trialId: trial.id,
          subject: { kind: 'timeline', ...spec, course: trial.subject.timeline.course },
          settings: trial.settings,
        }
      );
    }
    const clip = trial.clipId ? await getClip(trial.clipId) : null;
    const packets = clip ? await getPacketTable(clip.id) : null;
    if (!clip?.setup || !clip.format || !packets) return null;
    return {
      trialId: trial.id,
      subject: {
        kind: 'clip',
        path: join(clip.volumePath, clip.path),
        standIn: clip.volumeStandIn,
        setup: clip.setup,
        rate: clip.format.rate,
        packets,
        knownFaults: clip.faults ?? undefined,
      },
      settings: trial.settings,
    };
  }

  private async measure(trial: TrialRow, spec: TrialSpec): Promise<TrialEnd> {
    const { pictures, trialPath, watchdogMs, onTrialPid } = this.parts;
    const host = new TrialHost(
      trialPath,
      spec,
      {
        onPrepared: (run, slotCount) => this.onPrepared(run, slotCount),
        onFaults: (faults) => this.onFaults(trial, faults),
        onFindings: (findings) => this.onFindings(findings),
        onBatch: ({ from, count, data }) => this.saveBatch(from, count, data),
        onCounters: (counters) => this.onCounters(counters),
        onPicture: (frame, jpeg) => pictures.send(spec.trialId, frame, jpeg),
      },
      watchdogMs,
    );
    this.host = host;
    onTrialPid(host.pid);
    host.setViewers(pictures.viewerCount(spec.trialId));
    if (this.cancelRequested) host.cancel();
    const sampler = setInterval(() => this.sampleLoad(), sampleIntervalMs);
    try {
      return await host.ended;
    } finally {
      clearInterval(sampler);
      pictures.end(spec.trialId);
      onTrialPid(null);
    }
  }

  private onPrepared(run: RunConditions, slotCount: number): void {
    if (!this.conditions) return;
    const conditions = { ...this.conditions, run };
    this.conditions = conditions;
    this.queueSave(() => updateTrial(this.trialId, ['running'], { conditions, slotCount }));
  }

  /** Saved with the trial's end; what lies in the clips is told in Media from then on. */
  private onFaults(trial: TrialRow, faults: RunFaults): void {
    if (this.conditions?.run)
      this.conditions = { ...this.conditions, run: { ...this.conditions.run, faults } };
    this.queueSave(() => noteRunFaults(trial, faults));
  }

  /** Saved with the trial's end; the times of a timeline's parts serve to judge it and are not kept. */
  private onFindings({ parts = null, ...findings }: RunFindings): void {
    this.partTimes = parts;
    if (this.conditions?.run)
      this.conditions = { ...this.conditions, run: { ...this.conditions.run, afterwards: findings } };
  }

  /** Saves in order, one after the other; a database that is away holds the row back, not the trial. */
  private queueSave(step: () => Promise<unknown>): void {
    this.saving = this.saving.then(() => persist(step)).then(() => undefined);
    this.saving.catch(() => this.host?.cancel());
  }

  private saveBatch(from: number, count: number, data: Uint8Array): void {
    this.queueSave(async () => {
      await storeTraceBatch(this.trialId, from, count, data);
      const states = Array.from(decodeTrace(data).state, (state) => stateLetters[state] ?? '?').join('');
      for (let at = 0; at < states.length; at += 4_000) {
        announce({
          type: 'trial-slots',
          trialId: this.trialId,
          from: from + at,
          states: states.slice(at, at + 4_000),
        });
      }
    });
  }

  private onCounters(counters: LiveCounters): void {
    this.timeLeft.observe(counters.slot, Date.now());
    announce({
      type: 'trial-progress',
      trialId: this.trialId,
      counters,
      msLeft: this.timeLeft.remainingMs(counters.slotCount),
    });
  }

  private sampleLoad(): void {
    if (this.load) noteLoad(this.trialId, this.load);
  }

  private async close(trial: TrialRow, end: TrialEnd): Promise<void> {
    const reached = await closeTrial(
      { ...trial, conditions: this.conditions },
      statusOf(end),
      describeEnd(end),
      'detail' in end ? end.detail : null,
      this.load?.summary(end.kind === 'done' ? end.peakMemoryBytes : null) ?? null,
      this.partTimes,
    );
    if (reached) announce({ type: 'trial-status', trialId: trial.id, status: statusOf(end) });
  }
}

function statusOf(end: TrialEnd): TrialStatus {
  return end.kind;
}

function describeEnd(end: TrialEnd): string | null {
  return end.kind === 'done' ? null : end.kind === 'cancelled' ? 'Cancelled.' : end.message;
}

/**
 * Writes a trial's end: computes its summary from what was saved and sets its
 * status. Serves finished runs and, after a restart, orphaned ones.
 * @param partTimes what was measured of a timeline's parts, null where the run ended before
 * @returns whether this call ended it
 */
export async function closeTrial(
  trial: TrialRow,
  status: TrialStatus,
  outcome: string | null,
  detail: string | null,
  load: TrialRow['load'],
  partTimes: PartTimes | null = null,
): Promise<boolean> {
  const trace = await persist(() => loadTrace(trial.id));
  const played = trace.length > 0 ? await persist(() => judgedBy(trial, trace.length, partTimes)) : null;
  const base = {
    status,
    detail,
    load,
    endedAt: new Date(),
    conditions: trial.conditions,
    outcome:
      outcome && trace.length > 0 && status !== 'done'
        ? `${outcome} ${trace.length} of ${trial.slotCount} slots were saved.`
        : outcome,
  };
  if (!played) return persist(() => updateTrial(trial.id, ['queued', 'running'], base));
  const { settings, subject } = trial;
  const rate = rateOf(subject);
  const { summary, charges } = summarise({
    trace,
    ...played,
    rate,
    policy: settings.policy,
    buffers: settings.buffers,
    scale: settings.scale,
    spans: await persist(() => rigSpansOf(trial, load)),
    choices: trace.state.includes(slotState.dropped) ? await persist(() => rigChoicesOf(trial)) : null,
    scaleCosts: trial.conditions?.run?.afterwards?.scaleCosts ?? null,
    coreCosts: trial.conditions?.run?.afterwards?.coreCosts ?? null,
    doubtful: trial.conditions?.run?.faults?.doubtful ?? [],
  });
  const selfCheck =
    trial.kind === 'self-check' && status === 'done'
      ? judgeSelfCheck(
          trace,
          charges,
          expectedDrops(settings.faults),
          (1e6 * rate.den) / rate.num,
          summary.attribution?.agreement ?? 0,
        )
      : null;
  if (selfCheck && load?.pulse)
    await persist(() =>
      saveBestPulse(trial.rigId, {
        us: load.pulse?.medianUs ?? 0,
        at: new Date().toISOString(),
        trialId: trial.id,
      }),
    );
  return persist(() =>
    updateTrial(trial.id, ['queued', 'running'], {
      ...base,
      summary,
      charges: Buffer.from(charges),
      selfCheck,
    }),
  );
}

/** How the rig was over a run, by the samples of its load; null where that is not known. */
async function rigSpansOf({ id, conditions }: TrialRow, load: TrialRow['load']): Promise<RigSpan[] | null> {
  const beganAtMs = conditions?.run?.beganAtMs;
  if (beganAtMs === undefined) return null;
  const referenceUs = load?.pulse?.referenceUs ?? null;
  const cores = conditions?.rig.logicalCores ?? 1;
  return (await listSamples(id)).map((sample) =>
    rigSpan((sample.at.getTime() - beganAtMs) * 1000, sample, { cores, referenceUs }),
  );
}

/** What judging a trial needs of what it played, and how its drops are charged to parts; null when that is gone. */
async function judgedBy(
  trial: TrialRow,
  slots: number,
  partTimes: PartTimes | null,
): Promise<Pick<SummaryInput, 'graph' | 'chargeParts' | 'fewerStreams'> | null> {
  const found = await playedGraph(trial, slots);
  if (!found?.played) return found && { graph: found.graph };
  const { plan, timeline } = found.played;
  if (!partTimes) return { graph: found.graph };
  return {
    graph: found.graph,
    chargeParts: (measured, states) => chargeParts(timeline, plan, measured, states, partTimes),
    fewerStreams: (measured, states) => fewerStreams(timeline, plan, measured, states, partTimes),
  };
}
