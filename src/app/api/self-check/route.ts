import { answer } from '@/server/http';
import { startSelfCheck } from '@/server/trials';

export function POST(): Promise<Response> {
  return answer(async () => ({ id: await startSelfCheck() }));
}
