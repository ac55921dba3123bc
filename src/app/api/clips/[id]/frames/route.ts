import { route } from '@/server/platform/http';
import { framesOf } from '@/server/library/media';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/clips/{id}/frames', ({ ids }) => framesOf(ids.id));
