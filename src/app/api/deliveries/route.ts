import { deliveryInput } from '@/core/kinds/export';
import { answer, readBody } from '@/server/http';
import { keepDelivery } from '@/server/tasks';

/** Keeps a way of writing exports under a name. */
export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await keepDelivery(await readBody(request, deliveryInput)) }));
}
