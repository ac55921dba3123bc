import { answer } from '@/server/http';
import { versionDocument } from '@/server/timelines';

export const dynamic = 'force-dynamic';

export function GET(
  _request: Request,
  { params }: { params: Promise<{ id: string; number: string }> },
): Promise<Response> {
  return answer(async () => {
    const { id, number } = await params;
    return versionDocument(id, Number(number));
  });
}
