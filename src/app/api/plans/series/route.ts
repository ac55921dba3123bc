import { route } from '@/server/platform/http';
import { startSeries } from '@/server/decide/plans';

export const POST = route('POST /api/plans/series', async ({ body }) => ({ id: await startSeries(body) }));
