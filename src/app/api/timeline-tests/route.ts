import { answer } from '@/server/http';
import { testsByIds, testsOfRig } from '@/server/timelineTests';

export const dynamic = 'force-dynamic';

/** All tests without their records; with `?ids=a,b` these with them. */
export function GET(request: Request): Promise<Response> {
  const ids = new URL(request.url).searchParams.get('ids');
  return answer(() => (ids === null ? testsOfRig() : testsByIds(ids.split(',').slice(0, 24))));
}
