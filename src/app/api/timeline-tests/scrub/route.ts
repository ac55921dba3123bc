import { answer, readBody } from '@/server/http';
import { startScrub } from '@/server/timelineTests';
import { scrubInput } from '@/server/validation';

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ ids: await startScrub(await readBody(request, scrubInput)) }));
}
