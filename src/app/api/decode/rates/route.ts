import { readDecodePage } from '@/server/decode';
import { route } from '@/server/http';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/decode/rates', readDecodePage);
