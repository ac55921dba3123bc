import { forgetRig } from '@/server/exchange/importBundle';
import { route } from '@/server/platform/http';

export const DELETE = route('DELETE /api/rigs/{id}', ({ ids }) => forgetRig(ids.id));
