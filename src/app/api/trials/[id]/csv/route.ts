import { answer } from '@/server/http';
import { recordCsv } from '@/server/recordCsv';

export const dynamic = 'force-dynamic';

/** What a trial recorded, as CSV: one line per slot, request, file, pass or whatever its kind records. */
export function GET(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => {
    const { id } = await params;
    const { csv, kind } = await recordCsv(id);
    return new Response(csv, {
      headers: {
        'content-type': 'text/csv; charset=utf-8',
        'content-disposition': `attachment; filename="navvy-${kind}-${id}.csv"`,
      },
    });
  });
}
