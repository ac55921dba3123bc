import { answer, readBody } from '@/server/http';
import { startThroughput } from '@/server/storage';
import { throughputInput } from '@/server/validation';

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await startThroughput(await readBody(request, throughputInput)) }));
}
