import { route } from '@/server/http';
import { readClipPage } from '@/server/media';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/clips/{id}', ({ ids }) => readClipPage(ids.id));
