import { deleteCameraFormat, putCameraFormat } from '@/server/cameraFormats';
import { answer, readBody } from '@/server/http';
import { cameraFormatInput } from '@/server/validation';

type Context = { params: Promise<{ id: string }> };

export function PATCH(request: Request, { params }: Context): Promise<Response> {
  return answer(async () => ({
    id: await putCameraFormat(await readBody(request, cameraFormatInput), (await params).id),
  }));
}

export function DELETE(_request: Request, { params }: Context): Promise<Response> {
  return answer(async () => deleteCameraFormat((await params).id));
}
