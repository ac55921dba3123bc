import { route } from '@/server/platform/http';
import { createLoad } from '@/server/timelines/timelines';

export const POST = route('POST /api/timelines/load', async ({ body }) => ({ id: await createLoad(body) }));
