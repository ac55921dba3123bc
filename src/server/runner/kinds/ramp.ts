import { rampResult } from '@/core/timeline/ramp';
import { timelineKind } from './shared/timeline';

export const ramp = timelineKind<'ramp'>(({ settings }, { probes }) =>
  probes.length > 0 ? rampResult(settings.family, settings.scales, probes) : null,
);
