import { answer } from '@/server/http';
import { blocksCsv } from '@/server/storage';

export function GET(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => {
    const { id } = await params;
    return new Response(await blocksCsv(id), {
      headers: {
        'content-type': 'text/csv',
        'content-disposition': `attachment; filename="navvy-storage-${id}.csv"`,
      },
    });
  });
}
