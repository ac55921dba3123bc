import { answer } from '@/server/http';
import { deletePlan, readPlanPage } from '@/server/plans';

export const dynamic = 'force-dynamic';
type Context = { params: Promise<{ id: string }> };

export function GET(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => readPlanPage((await params).id));
}

export function DELETE(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => deletePlan((await params).id));
}
