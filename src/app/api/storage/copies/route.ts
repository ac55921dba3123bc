import { route } from '@/server/platform/http';
import { readCopiesPage } from '@/server/library/storage';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/storage/copies', readCopiesPage);
