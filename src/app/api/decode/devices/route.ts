import { lookAtDevices } from '@/server/decode';
import { answer } from '@/server/http';

export function POST(): Promise<Response> {
  return answer(lookAtDevices);
}
