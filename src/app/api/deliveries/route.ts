import { route } from '@/server/http';
import { keepDelivery } from '@/server/tasks';

/** Keeps a way of writing exports under a name. */
export const POST = route('POST /api/deliveries', async ({ body }) => ({ id: await keepDelivery(body) }));
