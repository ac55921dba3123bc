import { answer } from '@/server/http';
import { clipsOfRig } from '@/server/library';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(clipsOfRig);
}
