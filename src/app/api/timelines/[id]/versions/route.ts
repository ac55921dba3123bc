import { answer, readBody } from '@/server/http';
import { nameVersion, versionsOf } from '@/server/timelines';
import { timelineNameInput } from '@/server/validation';

export const dynamic = 'force-dynamic';
type Context = { params: Promise<{ id: string }> };

export function GET(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => versionsOf((await params).id));
}

/** Keeps the present state under a name. */
export function POST(request: Request, { params }: Context): Promise<Response> {
  return answer(async () => ({
    number: await nameVersion((await params).id, (await readBody(request, timelineNameInput)).name),
  }));
}
