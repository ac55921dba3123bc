import { answer } from '@/server/http';
import { deleteTrial } from '@/server/trialControls';
import { readTrialPage } from '@/server/trialPage';

export const dynamic = 'force-dynamic';
type Context = { params: Promise<{ id: string }> };

export function GET(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => readTrialPage((await params).id));
}

export function DELETE(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => deleteTrial((await params).id));
}
