import { answer } from '@/server/http';
import { seriesOf } from '@/server/storage';

export function GET(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => seriesOf((await params).id));
}
