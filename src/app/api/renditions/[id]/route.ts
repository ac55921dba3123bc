import { answer } from '@/server/http';
import { deleteRenditions, readRenditionPage } from '@/server/renditions';

type Context = { params: Promise<{ id: string }> };

export function GET(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => readRenditionPage((await params).id));
}

export function DELETE(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => deleteRenditions((await params).id));
}
