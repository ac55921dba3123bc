import { route } from '@/server/http';
import { readLadder } from '@/server/storage';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/storage/ladder', readLadder);
