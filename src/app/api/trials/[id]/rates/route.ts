import { answer } from '@/server/http';
import { seriesOf } from '@/server/storage';

/** Rates of a storage trial's requests, window by window. */
export function GET(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => seriesOf((await params).id));
}
