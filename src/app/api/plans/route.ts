import { answer, readBody } from '@/server/http';
import { plansOfRig, startPlan } from '@/server/plans';
import { planInput } from '@/server/validation';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(plansOfRig);
}

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await startPlan(await readBody(request, planInput)) }));
}
