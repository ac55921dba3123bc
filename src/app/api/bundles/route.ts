import { exportBundle, importBundle } from '@/server/bundles';
import { RequestError } from '@/server/errors';
import { answer } from '@/server/http';
import { currentRigId } from '@/server/rig';

export const dynamic = 'force-dynamic';
const mostBytes = 500e6;

/** The results of this rig, or with `?rig=ID` of an imported one, as a file. */
export function GET(request: Request): Promise<Response> {
  return answer(async () => {
    const { bundle, fileName } = await exportBundle(
      new URL(request.url).searchParams.get('rig') ?? (await currentRigId()),
    );
    return new Response(JSON.stringify(bundle, null, 1), {
      headers: {
        'content-type': 'application/json',
        'content-disposition': `attachment; filename="${fileName}"`,
      },
    });
  });
}

export function POST(request: Request): Promise<Response> {
  return answer(async () => {
    if (Number(request.headers.get('content-length') ?? 0) > mostBytes)
      throw new RequestError('The bundle is larger than 500 MB. Export it in parts.', 413, 'file');
    return importBundle(await request.text());
  });
}
