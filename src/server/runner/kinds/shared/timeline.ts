import { answerOf, type TimelineKind } from '@/core/kinds/kinds';
import { volumesOfTrial } from '@/core/kinds/volumes';
import { builtInGesture, fitted, type Gesture } from '@/core/scrub/gesture';
import type { TimelineTrial, TrialRow } from '@/db/kinds';
import { getGesture } from '@/db/queries/timelines';
import { EngineError } from '@/engine/errors';
import type { TimelineTrialSpec } from '@/engine/scrub/spec';
import { noteRunFaults } from '../../../library/clipFaults';
import { plainFinding } from '../../../trials/findings';
import { playedSpec } from '../../../timelines/timelineMedia';
import { retryWhileAway } from '../../shared/retryWhileAway';
import type { KindRunner, TrialRun } from '../../trialRun';
import type { ScrubSettings } from '@/core/kinds/scrub';
import type { TimelineTrialRecord } from '@/core/kinds/shared/timeline';

const nothing: TimelineTrialRecord = { cold: null, requests: [], gesture: null, probes: [], costs: null };
/** A probe plays for as long as it was asked to, without a word in between. */
const longestSilenceMs = 90_000;

/** A kind that tries a timeline out. @param summaryOf what was measured, null where it was not enough */
export function timelineKind<Kind extends TimelineKind>(
  summaryOf: (trial: TrialRow<Kind>, record: TimelineTrialRecord) => TrialRow<Kind>['summary'],
): KindRunner<Kind> {
  return {
    async prepare(row) {
      const trial = row as unknown as TimelineTrial;
      const spec = await specOf(trial);
      if (!spec) throw new EngineError('timeline-or-gesture-gone');
      return {
        volumeIds: volumesOfTrial(trial.subject),
        measure: async (run) => ({
          end: await measure(run, trial, spec),
        }),
      };
    },
    judge: (trial, { outcome }) => {
      const summary = trial.record ? summaryOf(trial, trial.record) : null;
      const answer = summary && answerOf(plainFinding({ ...trial, summary } as unknown as TrialRow));
      return Promise.resolve({ summary, outcome: outcome ?? answer });
    },
  };
}

function measure(run: TrialRun<TimelineKind>, { subject }: TimelineTrial, spec: TimelineTrialSpec) {
  let record = nothing;
  return run.perform('timeline', spec, {
    underWay: 'underWay' in spec.settings ? (spec.settings.underWay ?? 1) : 1,
    watchdogMs: Math.max(run.parts.watchdogMs, spec.settings.kind === 'ramp' ? longestSilenceMs : 0),
    onMessage: (message) => {
      if (message.type === 'progress') {
        run.reach(message.progress);
        run.tell(message.progress);
        return;
      }
      record = { ...record, ...message.record };
      run.keep(record);
      const { faults } = message.record;
      if (faults) run.save(() => noteRunFaults({ subject, clipId: null }, faults));
    },
  });
}

async function specOf({ subject, settings }: TimelineTrial): Promise<TimelineTrialSpec | null> {
  const source = await playedSpec(subject);
  if (!source) return null;
  if (settings.kind !== 'scrub') return { source, settings, gesture: null };
  const gesture = await gestureOf(settings.gesture, subject.timeline);
  return gesture && { source, settings, gesture };
}

async function gestureOf(
  choice: ScrubSettings['gesture'],
  { slots, rate }: TimelineTrial['subject']['timeline'],
): Promise<Gesture | null> {
  if (choice.kind !== 'recorded') return builtInGesture(choice.kind, slots, rate, choice.seed, choice.speed);
  const kept = await retryWhileAway(() => getGesture(choice.gestureId));
  return kept && fitted(kept.gesture, slots);
}
