import { answer } from '@/server/http';
import { repeatPlan } from '@/server/plans';

export function POST(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => ({ id: await repeatPlan((await params).id) }));
}
