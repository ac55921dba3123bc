import { answer } from '@/server/http';
import { traceViewOf } from '@/server/trials';

export const dynamic = 'force-dynamic';

/** The trace as columns; see `core/playback/traceView`. */
export function GET(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => {
    const view = await traceViewOf((await params).id);
    return new Response(view as BodyInit, {
      headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' },
    });
  });
}
