import { answer } from '@/server/http';
import { cancelTrial } from '@/server/trials';

export function POST(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => cancelTrial((await params).id));
}
