import { route } from '@/server/http';
import { forgetDelivery } from '@/server/tasks';

export const DELETE = route('DELETE /api/deliveries/{id}', ({ ids }) => forgetDelivery(ids.id));
