import { parseCube, writeCube } from '@/core/formats/cube';
import { fileAnswer, route } from '@/server/platform/http';
import { lookText } from '@/server/timelines/looks';

export const dynamic = 'force-dynamic';

/** The table as a `.cube` file. */
export const GET = route('GET /api/looks/{id}', async ({ ids }) => {
  const { name, cube } = await lookText(ids.id);
  return fileAnswer(writeCube(parseCube(cube)), 'text/plain', `${name.replace(/[^\w.-]+/g, '_')}.cube`);
});
