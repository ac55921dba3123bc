import { route } from '@/server/platform/http';
import { cancelWaiting } from '@/server/kinds/trialControls';

/** Takes all waiting trials of some kinds out of the queue. */
export const POST = route('POST /api/trials/cancel-waiting', ({ body }) => cancelWaiting(body.kinds));
