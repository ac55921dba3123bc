import { readSupportPage, startDecodeSupport } from '@/server/decode';
import { answer, readBody } from '@/server/http';
import { decodeSupportInput } from '@/server/validation';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(readSupportPage);
}

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ ids: await startDecodeSupport(await readBody(request, decodeSupportInput)) }));
}
