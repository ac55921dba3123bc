import { startDecodeStreams } from '@/server/decode';
import { answer, readBody } from '@/server/http';
import { decodeStreamsInput } from '@/server/validation';

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await startDecodeStreams(await readBody(request, decodeStreamsInput)) }));
}
