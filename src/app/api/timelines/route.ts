import { answer, readBody } from '@/server/http';
import { createEmpty, timelinesOfRig } from '@/server/timelines';
import { timelineInput } from '@/server/validation';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(timelinesOfRig);
}

export function POST(request: Request): Promise<Response> {
  return answer(async () => {
    const { name, rate, width, height } = await readBody(request, timelineInput);
    return { id: await createEmpty(name, rate, width, height) };
  });
}
