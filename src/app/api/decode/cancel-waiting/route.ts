import { cancelWaitingDecodeTrials } from '@/server/decode';
import { answer } from '@/server/http';

export function POST(): Promise<Response> {
  return answer(cancelWaitingDecodeTrials);
}
