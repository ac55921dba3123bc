import { answer } from '@/server/http';
import { exportTimeline } from '@/server/timelines';

export const dynamic = 'force-dynamic';

/** An interchange file; with `?losses` only what it cannot carry. */
export function GET(request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => {
    const query = new URL(request.url).searchParams;
    const { text, fileName, losses } = await exportTimeline(
      (await params).id,
      query.get('format') === 'edl' ? 'edl' : 'otio',
      query.get('track'),
    );
    if (query.has('losses')) return { losses, fileName };
    return new Response(text, {
      headers: {
        'content-type': 'text/plain; charset=utf-8',
        'content-disposition': `attachment; filename="${fileName}"`,
      },
    });
  });
}
