import { answer } from '@/server/http';
import { readStatus } from '@/server/rig';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(readStatus);
}
