import { answer } from '@/server/http';
import { viewerOf } from '@/server/pictures';

export const dynamic = 'force-dynamic';
type Context = { params: Promise<{ id: string }> };

/** The viewer's pictures and states as they come (see `ViewerSession`). */
export function GET(request: Request, { params }: Context): Promise<Response> {
  return answer(async () => viewerOf((await params).id, 'GET', null, request.signal));
}

/** A command, or a document to look at. */
export function POST(request: Request, { params }: Context): Promise<Response> {
  return answer(async () => viewerOf((await params).id, 'POST', await request.text(), request.signal));
}
