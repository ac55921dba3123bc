import { route } from '@/server/http';
import { framesOf } from '@/server/media';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/clips/{id}/frames', ({ ids }) => framesOf(ids.id));
