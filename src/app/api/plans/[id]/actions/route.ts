import { answer, readBody } from '@/server/http';
import { actOnPlan } from '@/server/plans';
import { planActionInput } from '@/server/validation';

export function POST(request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => actOnPlan((await params).id, await readBody(request, planActionInput)));
}
