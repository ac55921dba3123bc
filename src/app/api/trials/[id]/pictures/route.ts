import { answer } from '@/server/http';
import { livePictures } from '@/server/pictures';

export const dynamic = 'force-dynamic';

/** Live pictures of a running trial: records of [length][frame number][JPEG]. */
export function GET(request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  return answer(async () => livePictures((await params).id, request.signal));
}
