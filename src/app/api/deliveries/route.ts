import { route } from '@/server/platform/http';
import { keepDelivery } from '@/server/timelines/tasks';

/** Keeps a way of writing exports under a name. */
export const POST = route('POST /api/deliveries', async ({ body }) => ({ id: await keepDelivery(body) }));
