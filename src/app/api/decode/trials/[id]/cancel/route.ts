import { cancelDecodeTrial } from '@/server/decode';
import { answer } from '@/server/http';

type Context = { params: Promise<{ id: string }> };

export function POST(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => cancelDecodeTrial((await params).id));
}
