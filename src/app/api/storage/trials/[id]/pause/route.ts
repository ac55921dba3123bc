import { answer } from '@/server/http';
import { pauseCopy } from '@/server/storage';

export function POST(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => pauseCopy((await params).id));
}
