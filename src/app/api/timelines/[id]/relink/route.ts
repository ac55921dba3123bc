import { answer } from '@/server/http';
import { relinkTimeline } from '@/server/timelines';

export function POST(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => relinkTimeline((await params).id));
}
