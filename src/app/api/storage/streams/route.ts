import { answer, readBody } from '@/server/http';
import { startStreams } from '@/server/storage';
import { streamsInput } from '@/server/validation';

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await startStreams(await readBody(request, streamsInput)) }));
}
