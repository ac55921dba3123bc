import { measureCells } from '@/server/briefs';
import { answer, readBody } from '@/server/http';
import { measureInput } from '@/server/validation';

export function POST(request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => ({
    id: await measureCells((await params).id, (await readBody(request, measureInput)).cells),
  }));
}
