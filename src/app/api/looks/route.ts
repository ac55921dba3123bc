import { answer, readBody } from '@/server/http';
import { createLook, looksKept } from '@/server/timelines';
import { lookInput } from '@/server/validation';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(looksKept);
}

export function POST(request: Request): Promise<Response> {
  return answer(async () => {
    const { name, text } = await readBody(request, lookInput);
    return createLook(name, text);
  });
}
