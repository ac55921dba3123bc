import { answer, readBody } from '@/server/http';
import { playbackTrials, runsOfTimeline, startPlayback } from '@/server/trials';
import { playbackInput } from '@/server/validation';

export const dynamic = 'force-dynamic';

/** All playback trials, or with `?timeline=ID` those of one timeline. */
export function GET(request: Request): Promise<Response> {
  const timelineId = new URL(request.url).searchParams.get('timeline');
  return answer(() => (timelineId === null ? playbackTrials() : runsOfTimeline(timelineId)));
}

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await startPlayback(await readBody(request, playbackInput)) }));
}
