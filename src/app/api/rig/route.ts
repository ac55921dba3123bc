import { answer, readBody } from '@/server/http';
import { nameRig, readRigPage } from '@/server/rig';
import { rigInput } from '@/server/validation';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(readRigPage);
}

export function PATCH(request: Request): Promise<Response> {
  return answer(async () => nameRig((await readBody(request, rigInput)).name));
}
