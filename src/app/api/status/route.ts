import { route } from '@/server/platform/http';
import { readStatus } from '@/server/platform/rig';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/status', readStatus);
