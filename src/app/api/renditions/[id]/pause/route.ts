import { answer } from '@/server/http';
import { pauseRenditions } from '@/server/renditions';

type Context = { params: Promise<{ id: string }> };

export function POST(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => pauseRenditions((await params).id));
}
