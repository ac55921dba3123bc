import { answer } from '@/server/http';
import { requestScan } from '@/server/library';

export function POST(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => requestScan((await params).id));
}
