import { route } from '@/server/platform/http';
import { gesturesKept, saveGesture } from '@/server/timelines/timelineTrials';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/gestures', gesturesKept);

export const POST = route('POST /api/gestures', async ({ body: { name, ...gesture } }) => ({
  id: await saveGesture(name, { kind: 'recorded', ...gesture }),
}));
