import { join } from 'node:path';
import type { PlayedKind } from '@/core/kinds/kinds';
import { volumesOfTrial } from '@/core/kinds/volumes';
import type { RunFaults } from '@/core/media/faults';
import { rigSpan, type RigSpan } from '@/core/playback/rigSpans';
import { slotState } from '@/core/playback/slots';
import { rateOf } from '@/core/timeline/subject';
import { summarise, type PlaybackSummary, type SummaryInput } from '@/core/playback/summary';
import { decodeTrace, type Trace } from '@/core/playback/trace';
import type { PlayedSummary } from '@/core/kinds/shared/played';
import { TimeLeftEstimator } from '@/core/tasks/timeLeft';
import { chargeParts, fewerStreams, type PartTimes } from '@/core/timeline/parts';
import type { PlayedTrial } from '@/db/kinds';
import { getClip, getPacketTable } from '@/db/queries/clips';
import { listSamples, saveCharges } from '@/db/queries/trials';
import { EngineError } from '@/engine/errors';
import type { FromTrial, TrialSpec } from '@/engine/playback/spec';
import { noteRunFaults } from '../../../library/clipFaults';
import { announce, stateLetters } from '../../../platform/events';
import { rigChoicesOf } from '../../../decide/rigChoices';
import { playedGraph, playedSpec, soundSource } from '../../../timelines/timelineMedia';
import { loadTrace, storeTraceBatch } from '../../../trials/traces';
import { retryWhileAway } from '../../shared/retryWhileAway';
import type { Ending, Judged, KindRunner, Measured, TrialRun } from '../../trialRun';
import type { RunConditions } from '@/core/playback/conditions';

/** A run that came to its end, as it was judged. */
export interface JudgedRun {
  readonly trial: PlayedTrial;
  readonly load: Ending['load'];
  readonly trace: Trace;
  readonly charges: Uint8Array;
  readonly summary: PlaybackSummary;
}
/** What a kind finds of a run that came to its end, besides what all find. */
type Further = (run: JudgedRun) => Promise<Partial<PlayedSummary>>;

/** A kind that plays to deadlines and keeps a trace. */
export function playedKind<Kind extends PlayedKind>(
  further: Further = () => Promise.resolve({}),
): KindRunner<Kind> {
  const kind: KindRunner<PlayedKind> = {
    async prepare(trial) {
      const spec = await specOf(trial);
      if (!spec) {
        const { timeline } = trial.subject;
        throw new EngineError(timeline ? 'played-timeline-gone' : 'trial-clip-gone');
      }
      return {
        volumeIds: volumesOfTrial(trial.subject),
        conditions: { run: null },
        measure: (run) => new PlayedRun(run, trial, further).measure(spec),
      };
    },
    judge: (trial, ending) => judgePlayed(trial, ending, null, further),
  };
  return kind as unknown as KindRunner<Kind>;
}

async function specOf(trial: PlayedTrial): Promise<TrialSpec | null> {
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
      format: clip.format,
      rate: clip.format.rate,
      packets,
      sound: await soundSource(clip),
      knownFaults: clip.faults ?? undefined,
    },
    settings: trial.settings,
  };
}

/** One run under way: what its process tells. */
class PlayedRun {
  private partTimes: PartTimes | null = null;
  private readonly timeLeft = new TimeLeftEstimator();

  constructor(
    private readonly run: TrialRun<PlayedKind>,
    private readonly trial: PlayedTrial,
    private readonly further: Further,
  ) {}

  async measure(spec: TrialSpec): Promise<Measured<PlayedKind>> {
    const { pictures } = this.run.parts;
    const ended = this.run.perform('trial', spec, {
      underWay: spec.settings.underWay ?? 1,
      onMessage: (message) => this.onMessage(message),
    });
    this.run.setViewers(pictures.viewerCount(spec.trialId));
    const end = await ended.finally(() => pictures.end(spec.trialId));
    return {
      end,
      ...(end.kind === 'done' ? { peakMemoryBytes: end.last.peakMemoryBytes } : {}),
      judge: (trial, ending) => judgePlayed(trial, ending, this.partTimes, this.further),
    };
  }

  private onMessage(message: FromTrial): void {
    switch (message.type) {
      case 'prepared':
        this.run.reach({ slotCount: message.slotCount });
        this.run.condition({ run: message.conditions });
        break;
      case 'beforehand':
        this.run.tell({ beforehand: { done: message.done, all: message.all }, msLeft: null });
        break;
      case 'streams':
        this.changeRun({ streams: message.streams });
        break;
      case 'faults':
        this.onFaults(message.faults);
        break;
      case 'findings': {
        // The times of a timeline's parts serve to judge the run and are not kept.
        const { parts = null, ...afterwards } = message.findings;
        this.partTimes = parts;
        this.changeRun({ afterwards });
        break;
      }
      case 'batch':
        this.saveBatch(message.from, message.count, message.data);
        break;
      case 'counters': {
        const { counters } = message;
        this.timeLeft.observe(counters.slot, Date.now());
        this.run.tell({ counters, msLeft: this.timeLeft.remainingMs(counters.slotCount) });
        break;
      }
      case 'picture':
        this.run.parts.pictures.send(this.run.trialId, message.frame, message.jpeg);
        break;
      case 'failed':
      case 'finished':
        break;
    }
  }

  /** What lies in the clips is told in Media from then on. */
  private onFaults(faults: RunFaults): void {
    this.changeRun({ faults });
    this.run.save(() => noteRunFaults(this.trial, faults));
  }

  private changeRun(change: Partial<RunConditions>): void {
    const now = this.run.conditions?.run;
    if (now) this.run.condition({ run: { ...now, ...change } });
  }

  private saveBatch(from: number, count: number, data: Uint8Array): void {
    const { trialId } = this.run;
    this.run.save(async () => {
      await storeTraceBatch(trialId, from, count, data);
      const states = Array.from(decodeTrace(data).state, (state) => stateLetters[state] ?? '?').join('');
      for (let at = 0; at < states.length; at += 4_000)
        announce({ type: 'trial-slots', trialId, from: from + at, states: states.slice(at, at + 4_000) });
    });
  }
}

/** @param partTimes what was measured of a timeline's parts, null where the run ended before */
async function judgePlayed(
  trial: PlayedTrial,
  { status, outcome, load }: Ending,
  partTimes: PartTimes | null,
  further: Further,
): Promise<Judged<PlayedKind>> {
  const trace = await retryWhileAway(() => loadTrace(trial.id));
  const said =
    outcome && trace.length > 0 && status !== 'done'
      ? `${outcome} ${trace.length} of ${trial.progress?.slotCount ?? trace.length} slots were saved.`
      : outcome;
  const graph =
    trace.length > 0 ? await retryWhileAway(() => judgedBy(trial, trace.length, partTimes)) : null;
  if (!graph) return { summary: null, outcome: said };
  const { settings, subject } = trial;
  const rate = rateOf(subject);
  const { summary, charges } = summarise({
    trace,
    ...graph,
    rate,
    policy: settings.policy,
    buffers: settings.buffers,
    scale: settings.scale,
    spans: await retryWhileAway(() => rigSpansOf(trial, load)),
    choices: trace.state.includes(slotState.dropped) ? await retryWhileAway(() => rigChoicesOf(trial)) : null,
    scaleCosts: trial.conditions?.run?.afterwards?.scaleCosts ?? null,
    coreCosts: trial.conditions?.run?.afterwards?.coreCosts ?? null,
    doubtful: trial.conditions?.run?.faults?.doubtful ?? [],
  });
  await retryWhileAway(() => saveCharges(trial.id, Buffer.from(charges)));
  const found = status === 'done' ? await further({ trial, load, trace, charges, summary }) : {};
  return { summary: { ...summary, ...found }, outcome: said };
}

/** How the rig was over a run, by the samples of its load; null where that is not known. */
async function rigSpansOf(
  { id, conditions }: PlayedTrial,
  load: PlayedTrial['load'],
): Promise<RigSpan[] | null> {
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
  trial: PlayedTrial,
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
