import { forgetRig } from '@/server/exchange/bundles';
import { route } from '@/server/platform/http';

export const DELETE = route('DELETE /api/rigs/{id}', ({ ids }) => forgetRig(ids.id));
