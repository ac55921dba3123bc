import { route } from '@/server/http';
import { readCopiesPage } from '@/server/storage';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/storage/copies', readCopiesPage);
