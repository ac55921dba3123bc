import { forgetRig } from '@/server/bundles';
import { route } from '@/server/http';

export const DELETE = route('DELETE /api/rigs/{id}', ({ ids }) => forgetRig(ids.id));
