import { answer, readBody } from '@/server/http';
import { deleteTimeline, requireTimeline, saveDocument } from '@/server/timelines';
import { timelineSaveInput } from '@/server/validation';

export const dynamic = 'force-dynamic';
type Context = { params: Promise<{ id: string }> };

export function GET(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => requireTimeline((await params).id));
}

export function PUT(request: Request, { params }: Context): Promise<Response> {
  return answer(async () => saveDocument((await params).id, await readBody(request, timelineSaveInput)));
}

export function DELETE(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => deleteTimeline((await params).id));
}
