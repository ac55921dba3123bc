import { answer } from '@/server/http';
import { framesOf } from '@/server/media';

type Context = { params: Promise<{ id: string }> };

export function GET(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => framesOf((await params).id));
}
