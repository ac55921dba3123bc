import { object } from '../edge/strict';
import { costsSentence } from '../sentences/timeline';
import type { EffectCosts } from '../timeline/effectCosts';
import type { KindFacts } from './kind';
import { runSettings, target } from './shared/asked';
import { time } from './shared/metrics';
import { playedNames, playedUnder } from './shared/played';
import { timelinePage, type TimelineCommon, type TimelineShape } from './shared/timeline';
import { cacheTold, threadsTold } from './shared/told';

export interface CalibrationSettings extends TimelineCommon {
  readonly kind: 'calibration';
}

export const costsInput = object({ ...target, threads: runSettings.threads }).noUnknown();

/** What each effect costs on one decoded frame. */
export interface Calibration extends TimelineShape {
  readonly settings: CalibrationSettings;
  readonly summary: EffectCosts;
}

export const calibration: KindFacts<Calibration> = {
  name: 'Calibration',
  page: timelinePage,
  names: ({ subject }) => playedNames(subject, ''),
  told: { threads: threadsTold, warm: cacheTold },
  under: ({ subject }) => playedUnder(subject),
  answer: ({ summary }) => costsSentence(summary),
  overheadMs: 3_000,
  metrics: [
    time('fullLayer', 'A plain layer at full scale', 'ms'),
    time('halfLayer', 'A plain layer at half scale', 'ms'),
    time('quarterLayer', 'A plain layer at quarter scale', 'ms'),
  ],
  values: ({ summary }) =>
    Object.fromEntries(summary.scales.map(({ scale, baseUs }) => [`${scale}Layer`, baseUs / 1000])),
};
