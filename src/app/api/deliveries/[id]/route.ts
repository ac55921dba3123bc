import { route } from '@/server/platform/http';
import { forgetDelivery } from '@/server/timelines/tasks';

export const DELETE = route('DELETE /api/deliveries/{id}', ({ ids }) => forgetDelivery(ids.id));
