import { answer } from '@/server/http';
import { readPrerenders } from '@/server/prerenders';
import { requireTimeline } from '@/server/timelines';

export const dynamic = 'force-dynamic';

/** What of a timeline was rendered ahead, and whether it can still be used. */
export function GET(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => {
    const { id } = await params;
    return { prerenders: await readPrerenders(id, (await requireTimeline(id)).document) };
  });
}
