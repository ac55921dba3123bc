import { exportBundle, importBundle } from '@/server/trials/bundles';
import { fileAnswer, route } from '@/server/platform/http';
import { currentRigId } from '@/server/platform/rig';

export const dynamic = 'force-dynamic';

/** The results of this rig, or with `?rig=ID` of an imported one, as a file. */
export const GET = route('GET /api/bundles', async ({ query }) => {
  const { bundle, fileName } = await exportBundle(query.get('rig') ?? (await currentRigId()));
  return fileAnswer(JSON.stringify(bundle, null, 1), 'application/json', fileName);
});

export const POST = route('POST /api/bundles', ({ body }) => importBundle(body));
