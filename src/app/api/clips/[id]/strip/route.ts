import { route } from '@/server/platform/http';
import { stripOf } from '@/server/library/media';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/clips/{id}/strip', ({ ids }) => stripOf(ids.id));
