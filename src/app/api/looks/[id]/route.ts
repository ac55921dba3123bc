import { parseCube, writeCube } from '@/core/formats/cube';
import { answer } from '@/server/http';
import { lookText } from '@/server/timelines';

export const dynamic = 'force-dynamic';

/** The table as a `.cube` file. */
export function GET(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => {
    const { name, cube } = await lookText((await params).id);
    return new Response(writeCube(parseCube(cube)), {
      headers: {
        'content-type': 'text/plain; charset=utf-8',
        'content-disposition': `attachment; filename="${name.replace(/[^\w.-]+/g, '_')}.cube"`,
      },
    });
  });
}
