import { answer, readBody } from '@/server/http';
import { playbackTrials, startPlayback } from '@/server/trials';
import { playbackInput } from '@/server/validation';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(playbackTrials);
}

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await startPlayback(await readBody(request, playbackInput)) }));
}
