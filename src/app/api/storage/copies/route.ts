import { answer } from '@/server/http';
import { readCopiesPage } from '@/server/storage';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(readCopiesPage);
}
