import { route } from '@/server/platform/http';
import { importTimeline } from '@/server/timelines/interchange';

export const POST = route('POST /api/timelines/import', ({ body }) => importTimeline(body));
