import { summariseOpening } from '@/core/tasks/opening';
import { timelineKind } from './shared/timeline';

export const opening = timelineKind<'opening'>((_, { opening: record }) =>
  record ? summariseOpening(record) : null,
);
