import { answer } from '@/server/http';
import { deleteTest, requireTest } from '@/server/timelineTests';

export const dynamic = 'force-dynamic';
type Context = { params: Promise<{ id: string }> };

export function GET(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => requireTest((await params).id));
}

export function DELETE(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => deleteTest((await params).id));
}
