import { answer, readBody } from '@/server/http';
import { importTimeline } from '@/server/timelines';
import { importInput } from '@/server/validation';

export function POST(request: Request): Promise<Response> {
  return answer(async () => {
    const { fileName, text, rate } = await readBody(request, importInput);
    return importTimeline(fileName, text, rate);
  });
}
