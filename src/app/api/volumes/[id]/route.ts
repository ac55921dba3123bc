import { answer, readBody } from '@/server/http';
import { changeVolume, deleteVolume } from '@/server/library';
import { readVolumePage } from '@/server/storage';
import { volumeChange } from '@/server/validation';

type Context = { params: Promise<{ id: string }> };

export function GET(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => readVolumePage((await params).id));
}

export function PATCH(request: Request, { params }: Context): Promise<Response> {
  return answer(async () => changeVolume((await params).id, await readBody(request, volumeChange)));
}

export function DELETE(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => deleteVolume((await params).id));
}
