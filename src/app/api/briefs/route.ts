import { briefsOfRig, createBrief } from '@/server/briefs';
import { answer, readBody } from '@/server/http';
import { briefInput } from '@/server/validation';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(briefsOfRig);
}

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await createBrief(await readBody(request, briefInput)) }));
}
