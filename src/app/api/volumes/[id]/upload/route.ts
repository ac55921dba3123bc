import type { ReadableStream } from 'node:stream/web';
import { route } from '@/server/platform/http';
import { uploadClip } from '@/server/library/media';

/** The body is the file; its name and the folder it goes to stand in the address. */
export const POST = route('POST /api/volumes/{id}/upload', ({ ids, query, request }) =>
  uploadClip(
    ids.id,
    query.get('name') ?? '',
    query.get('folder') ?? '',
    request.body as ReadableStream<Uint8Array> | null,
  ),
);
