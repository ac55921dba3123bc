import { answer, readBody } from '@/server/http';
import { gesturesKept, saveGesture } from '@/server/timelineTrials';
import { gestureInput } from '@/server/validation';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(gesturesKept);
}

export function POST(request: Request): Promise<Response> {
  return answer(async () => {
    const { name, ...gesture } = await readBody(request, gestureInput);
    return { id: await saveGesture(name, { kind: 'recorded', ...gesture }) };
  });
}
