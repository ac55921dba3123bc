import { changeBrief, deleteBrief, readBriefPage } from '@/server/briefs';
import { answer, readBody } from '@/server/http';
import { briefInput } from '@/server/validation';

export const dynamic = 'force-dynamic';
type Context = { params: Promise<{ id: string }> };

export function GET(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => readBriefPage((await params).id));
}

export function PUT(request: Request, { params }: Context): Promise<Response> {
  return answer(async () => changeBrief((await params).id, await readBody(request, briefInput)));
}

export function DELETE(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => deleteBrief((await params).id));
}
