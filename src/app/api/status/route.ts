import { route } from '@/server/http';
import { readStatus } from '@/server/rig';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/status', readStatus);
