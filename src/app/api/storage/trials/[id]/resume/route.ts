import { answer } from '@/server/http';
import { resumeCopy } from '@/server/storage';

export function POST(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => resumeCopy((await params).id));
}
