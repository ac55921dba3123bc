import { answer, readBody } from '@/server/http';
import { startRamp } from '@/server/timelineTests';
import { rampInput } from '@/server/validation';

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await startRamp(await readBody(request, rampInput)) }));
}
