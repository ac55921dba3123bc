import { summariseScrub } from '@/core/scrub/analyse';
import { timelineKind } from './shared/timeline';

export const scrub = timelineKind<'scrub'>((_, { requests }) =>
  requests.length > 0 ? summariseScrub(requests) : null,
);
