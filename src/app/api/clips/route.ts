import { answer } from '@/server/http';
import { clipsOfRig } from '@/server/media';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(clipsOfRig);
}
