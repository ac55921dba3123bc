import { answer } from '@/server/http';
import { cancelStorageTrial } from '@/server/storage';

export function POST(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => cancelStorageTrial((await params).id));
}
