import { exportBundle } from '@/server/exchange/exportBundle';
import { importBundle } from '@/server/exchange/importBundle';
import { fileAnswer, route } from '@/server/platform/http';
import { currentRigId } from '@/server/platform/rig';

export const dynamic = 'force-dynamic';

/** The results of this rig, or with `?rig=ID` of an imported one, as a file. */
export const GET = route('GET /api/bundles', async ({ query }) => {
  const { bundle, fileName } = await exportBundle(query.get('rig') ?? (await currentRigId()));
  return fileAnswer(JSON.stringify(bundle, null, 1), 'application/json', fileName);
});

/** Takes a bundle in; with `?store=no` it is only read, and what would come in is told. */
export const POST = route('POST /api/bundles', ({ body, query }) =>
  importBundle(body, { store: query.get('store') !== 'no' }),
);
