import { startDecodeRates } from '@/server/decode';
import { answer, readBody } from '@/server/http';
import { decodeRateInput } from '@/server/validation';

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ ids: await startDecodeRates(await readBody(request, decodeRateInput)) }));
}
