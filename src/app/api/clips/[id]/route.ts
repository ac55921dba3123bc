import { route } from '@/server/platform/http';
import { changeClip, readClipPage } from '@/server/library/media';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/clips/{id}', ({ ids }) => readClipPage(ids.id));

export const PATCH = route('PATCH /api/clips/{id}', ({ ids, body }) => changeClip(ids.id, body.rate));
