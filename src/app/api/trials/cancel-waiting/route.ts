import { answer, readBody } from '@/server/http';
import { cancelWaiting } from '@/server/trialControls';
import { cancelWaitingInput } from '@/server/validation';

/** Takes all waiting trials of some kinds out of the queue. */
export function POST(request: Request): Promise<Response> {
  return answer(async () => cancelWaiting((await readBody(request, cancelWaitingInput)).kinds));
}
