import { route } from '@/server/http';
import { forgetGesture } from '@/server/timelineTrials';

export const DELETE = route('DELETE /api/gestures/{id}', ({ ids }) => forgetGesture(ids.id));
