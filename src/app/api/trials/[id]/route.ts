import { answer } from '@/server/http';
import { deleteTrial, readTrialPage } from '@/server/trials';

export const dynamic = 'force-dynamic';

export function GET(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => readTrialPage((await params).id));
}

export function DELETE(
  _request: Request,
  { params }: { params: Promise<{ id: string }> },
): Promise<Response> {
  return answer(async () => deleteTrial((await params).id));
}
