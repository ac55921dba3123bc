import { judgeSelfCheck } from '@/core/playback/selfCheck';
import { rateOf } from '@/core/timeline/subject';
import { saveBestPulse } from '@/db/queries/rigs';
import { expectedDrops } from '@/engine/playback/faults';
import { retryWhileAway } from '../shared/retryWhileAway';
import { playedKind } from './shared/played';

/** Judges whether the faults that were injected are found, and keeps the rig's best pulse. */
export const selfCheck = playedKind<'self-check'>(async ({ trial, load, trace, charges, summary }) => {
  const rate = rateOf(trial.subject);
  const us = load?.pulse?.medianUs;
  if (us !== undefined)
    await retryWhileAway(() =>
      saveBestPulse(trial.rigId, { us, at: new Date().toISOString(), trialId: trial.id }),
    );
  return {
    selfCheck: judgeSelfCheck(
      trace,
      charges,
      expectedDrops(trial.settings.faults),
      (1e6 * rate.den) / rate.num,
      summary.attribution?.agreement ?? 0,
    ),
  };
});
