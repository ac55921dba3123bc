import { route } from '@/server/platform/http';
import { createLook, looksKept } from '@/server/timelines/looks';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/looks', looksKept);

export const POST = route('POST /api/looks', ({ body }) => createLook(body.name, body.text));
