import { route } from '@/server/platform/http';

export const dynamic = 'force-dynamic';

/** Answers once the server can serve; needs no database. */
export const GET = route('GET /api/health', () => Promise.resolve({ ok: true }));
