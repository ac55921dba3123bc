import { route } from '@/server/platform/http';
import { createVolume } from '@/server/library/library';
import { readStoragePage } from '@/server/library/storage';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/volumes', readStoragePage);

export const POST = route('POST /api/volumes', async ({ body }) => ({ id: await createVolume(body) }));
