import { answer } from '@/server/http';
import { readAround } from '@/server/around';

export const dynamic = 'force-dynamic';

/** What the rig did meanwhile, the series it belongs to, and what people noted. */
export function GET(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => readAround((await params).id));
}
