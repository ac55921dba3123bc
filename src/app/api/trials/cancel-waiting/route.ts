import { route } from '@/server/http';
import { cancelWaiting } from '@/server/trialControls';

/** Takes all waiting trials of some kinds out of the queue. */
export const POST = route('POST /api/trials/cancel-waiting', ({ body }) => cancelWaiting(body.kinds));
