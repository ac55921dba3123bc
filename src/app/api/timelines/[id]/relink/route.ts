import { route } from '@/server/http';
import { relinkTimeline } from '@/server/timelines';

export const POST = route('POST /api/timelines/{id}/relink', ({ ids }) => relinkTimeline(ids.id));
