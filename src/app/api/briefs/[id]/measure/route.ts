import { measureCells } from '@/server/decide/briefs';
import { route } from '@/server/platform/http';

export const POST = route('POST /api/briefs/{id}/measure', async ({ ids, body }) => ({
  id: await measureCells(ids.id, body.cells),
}));
