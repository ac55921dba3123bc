import { route } from '@/server/http';
import { controlTrial } from '@/server/trialControls';

/** `cancel`, `pause` or `resume`. */
export const POST = route('POST /api/trials/{id}/{control}', ({ ids }) => controlTrial(ids.id, ids.control));
