import { deleteDecodeTrial, readDecodeTrialPage } from '@/server/decode';
import { answer } from '@/server/http';

type Context = { params: Promise<{ id: string }> };

export function GET(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => readDecodeTrialPage((await params).id));
}

export function DELETE(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => deleteDecodeTrial((await params).id));
}
