import { route } from '@/server/http';
import { startSeries } from '@/server/plans';

export const POST = route('POST /api/plans/series', async ({ body }) => ({ id: await startSeries(body) }));
