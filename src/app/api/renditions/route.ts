import { route } from '@/server/platform/http';
import { readRenditionsPage } from '@/server/library/renditions';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/renditions', readRenditionsPage);
