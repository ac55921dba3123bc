import { answer } from '@/server/http';
import { uploadClip } from '@/server/media';
import type { ReadableStream } from 'node:stream/web';

type Context = { params: Promise<{ id: string }> };

/** The body is the file; its name and the folder it goes to stand in the address. */
export function POST(request: Request, { params }: Context): Promise<Response> {
  const query = new URL(request.url).searchParams;
  return answer(async () =>
    uploadClip(
      (await params).id,
      query.get('name') ?? '',
      query.get('folder') ?? '',
      request.body as ReadableStream<Uint8Array> | null,
    ),
  );
}
