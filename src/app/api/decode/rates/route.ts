import { readDecodePage } from '@/server/decode';
import { answer } from '@/server/http';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(readDecodePage);
}
