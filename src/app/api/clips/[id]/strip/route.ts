import { route } from '@/server/http';
import { stripOf } from '@/server/media';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/clips/{id}/strip', ({ ids }) => stripOf(ids.id));
