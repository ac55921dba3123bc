import { answer, readBody } from '@/server/http';
import { startCosts } from '@/server/timelineTests';
import { costsInput } from '@/server/validation';

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await startCosts(await readBody(request, costsInput)) }));
}
