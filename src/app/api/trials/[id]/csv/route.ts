import { answer } from '@/server/http';
import { traceCsv } from '@/server/traceCsv';

export const dynamic = 'force-dynamic';

/** The raw trace as CSV, one line per slot. */
export function GET(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => {
    const { id } = await params;
    return new Response(await traceCsv(id), {
      headers: {
        'content-type': 'text/csv; charset=utf-8',
        'content-disposition': `attachment; filename="navvy-trial-${id}.csv"`,
      },
    });
  });
}
