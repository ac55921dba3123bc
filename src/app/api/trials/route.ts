import { answer, readJson } from '@/server/http';
import { startTrials } from '@/server/trialStart';
import { playbackTrials, runsOfTimeline } from '@/server/trials';

export const dynamic = 'force-dynamic';

/** All playback trials, or with `?timeline=ID` those of one timeline. */
export function GET(request: Request): Promise<Response> {
  const timelineId = new URL(request.url).searchParams.get('timeline');
  return answer(() => (timelineId === null ? playbackTrials() : runsOfTimeline(timelineId)));
}

/** Queues trials of the kind that the body names. Answers with their ids, the first by itself as well. */
export function POST(request: Request): Promise<Response> {
  return answer(async () => {
    const ids = await startTrials(await readJson(request));
    return { id: ids[0] ?? null, ids };
  });
}
