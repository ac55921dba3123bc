import { answer, readBody } from '@/server/http';
import { copyTimeline } from '@/server/timelines';
import { timelineNameInput } from '@/server/validation';

export function POST(request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => ({
    id: await copyTimeline((await params).id, (await readBody(request, timelineNameInput)).name),
  }));
}
