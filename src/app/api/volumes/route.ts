import { route } from '@/server/http';
import { createVolume } from '@/server/library';
import { readStoragePage } from '@/server/storage';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/volumes', readStoragePage);

export const POST = route('POST /api/volumes', async ({ body }) => ({ id: await createVolume(body) }));
