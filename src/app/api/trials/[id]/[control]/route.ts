import { route } from '@/server/platform/http';
import { controlTrial } from '@/server/kinds/trialControls';

/** `cancel`, `pause` or `resume`. */
export const POST = route('POST /api/trials/{id}/{control}', ({ ids }) => controlTrial(ids.id, ids.control));
