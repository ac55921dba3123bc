import { answer, readBody } from '@/server/http';
import { startSeries } from '@/server/plans';
import { seriesInput } from '@/server/validation';

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await startSeries(await readBody(request, seriesInput)) }));
}
