import { answer } from '@/server/http';
import { readRenditionsPage } from '@/server/renditions';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(readRenditionsPage);
}
