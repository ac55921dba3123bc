import { answer, readBody } from '@/server/http';
import { startTimelinePlayback } from '@/server/timelines';
import { timelinePlaybackInput } from '@/server/validation';

export function POST(request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => ({
    id: await startTimelinePlayback((await params).id, await readBody(request, timelinePlaybackInput)),
  }));
}
