import { route } from '@/server/http';
import { createLoad } from '@/server/timelines';

export const POST = route('POST /api/timelines/load', async ({ body }) => ({ id: await createLoad(body) }));
