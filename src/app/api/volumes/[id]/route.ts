import { route } from '@/server/platform/http';
import { changeVolume, deleteVolume } from '@/server/library/library';
import { readVolumePage } from '@/server/library/storage';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/volumes/{id}', ({ ids }) => readVolumePage(ids.id));

export const PATCH = route('PATCH /api/volumes/{id}', ({ ids, body }) => changeVolume(ids.id, body));

export const DELETE = route('DELETE /api/volumes/{id}', ({ ids }) => deleteVolume(ids.id));
