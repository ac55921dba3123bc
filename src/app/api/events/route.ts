import { eventStream } from '@/server/platform/eventStream';
import { route } from '@/server/platform/http';

export const dynamic = 'force-dynamic';

/** Server-sent events: what the runner tells, as it happens. */
export const GET = route('GET /api/events', ({ request }) => Promise.resolve(eventStream(request.signal)));
