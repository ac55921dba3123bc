import { answer, readBody } from '@/server/http';
import { forecastOf } from '@/server/timelineForecast';
import { timelinePlaybackInput } from '@/core/kinds/playback';

/** What a run under these settings is expected to do. */
export function POST(request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => forecastOf((await params).id, await readBody(request, timelinePlaybackInput)));
}
