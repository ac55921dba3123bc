import { route } from '@/server/http';
import { importTimeline } from '@/server/timelines';

export const POST = route('POST /api/timelines/import', ({ body: { fileName, text, rate } }) =>
  importTimeline(fileName, text, rate),
);
