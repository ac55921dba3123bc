import { answer } from '@/server/http';
import { readClipPage } from '@/server/media';

type Context = { params: Promise<{ id: string }> };

export function GET(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => readClipPage((await params).id));
}
