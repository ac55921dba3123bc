import { timelineKind } from './shared/timeline';

export const calibration = timelineKind<'calibration'>((_, { costs }) => costs);
