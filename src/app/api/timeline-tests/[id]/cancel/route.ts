import { answer } from '@/server/http';
import { cancelTest } from '@/server/timelineTests';

export function POST(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => cancelTest((await params).id));
}
