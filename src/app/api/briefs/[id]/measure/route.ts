import { measureCells } from '@/server/briefs';
import { route } from '@/server/http';

export const POST = route('POST /api/briefs/{id}/measure', async ({ ids, body }) => ({
  id: await measureCells(ids.id, body.cells),
}));
