import { route } from '@/server/platform/http';
import { relinkTimeline } from '@/server/timelines/interchange';

export const POST = route('POST /api/timelines/{id}/relink', ({ ids }) => relinkTimeline(ids.id));
