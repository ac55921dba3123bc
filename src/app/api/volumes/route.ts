import { answer, readBody } from '@/server/http';
import { createVolume } from '@/server/library';
import { readStoragePage } from '@/server/storage';
import { volumeInput } from '@/server/validation';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(readStoragePage);
}

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await createVolume(await readBody(request, volumeInput)) }));
}
