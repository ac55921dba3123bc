import { readDecodePage } from '@/server/library/decode';
import { route } from '@/server/platform/http';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/decode/rates', readDecodePage);
