import { route } from '@/server/platform/http';
import { seriesOf } from '@/server/library/storage';

export const dynamic = 'force-dynamic';

/** Rates of a storage trial's requests, window by window. */
export const GET = route('GET /api/trials/{id}/rates', ({ ids }) => seriesOf(ids.id));
