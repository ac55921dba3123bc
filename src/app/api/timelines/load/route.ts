import { answer, readBody } from '@/server/http';
import { createLoad } from '@/server/timelines';
import { loadInput } from '@/server/validation';

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await createLoad(await readBody(request, loadInput)) }));
}
