import { answer } from '@/server/http';
import { readLadder } from '@/server/storage';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(readLadder);
}
