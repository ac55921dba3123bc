import { answer, readBody } from '@/server/http';
import { readCopiesPage, startCopy } from '@/server/storage';
import { copyInput } from '@/server/validation';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(readCopiesPage);
}

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await startCopy(await readBody(request, copyInput)) }));
}
