import { answer } from '@/server/http';
import { cancelRenditions } from '@/server/renditions';

type Context = { params: Promise<{ id: string }> };

export function POST(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => cancelRenditions((await params).id));
}
