import { eventStream } from '@/server/eventStream';

export const dynamic = 'force-dynamic';

/** Server-sent events: what the runner tells, as it happens. */
export function GET(request: Request): Response {
  return eventStream(request.signal);
}
