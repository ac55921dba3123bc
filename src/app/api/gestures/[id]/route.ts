import { route } from '@/server/platform/http';
import { forgetGesture } from '@/server/timelines/timelineTrials';

export const DELETE = route('DELETE /api/gestures/{id}', ({ ids }) => forgetGesture(ids.id));
