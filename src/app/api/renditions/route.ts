import { answer, readBody } from '@/server/http';
import { readRenditionsPage, startRenditions } from '@/server/renditions';
import { renditionInput } from '@/server/validation';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(readRenditionsPage);
}

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await startRenditions(await readBody(request, renditionInput)) }));
}
