import { route } from '@/server/http';
import { readRenditionsPage } from '@/server/renditions';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/renditions', readRenditionsPage);
