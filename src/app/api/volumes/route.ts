import { answer, readBody } from '@/server/http';
import { createVolume, volumesOfRig } from '@/server/library';
import { volumeInput } from '@/server/validation';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(volumesOfRig);
}

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({ id: await createVolume(await readBody(request, volumeInput)) }));
}
