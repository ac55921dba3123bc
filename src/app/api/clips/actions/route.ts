import { answer, readBody } from '@/server/http';
import { actOnClips } from '@/server/media';
import { clipActionInput } from '@/server/validation';

export function POST(request: Request): Promise<Response> {
  return answer(async () => {
    const { action, clipIds } = await readBody(request, clipActionInput);
    return actOnClips(action, clipIds);
  });
}
