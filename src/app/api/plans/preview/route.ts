import { answer, readBody } from '@/server/http';
import { previewPlan } from '@/server/plans';
import { planInput } from '@/server/validation';

export function POST(request: Request): Promise<Response> {
  return answer(async () => previewPlan(await readBody(request, planInput)));
}
