import { cameraFormats, putCameraFormat, resetCameraFormats } from '@/server/cameraFormats';
import { answer, readBody } from '@/server/http';
import { cameraFormatInput } from '@/server/validation';

export const dynamic = 'force-dynamic';

export function GET(): Promise<Response> {
  return answer(cameraFormats);
}

export function POST(request: Request): Promise<Response> {
  return answer(async () => ({
    id: await putCameraFormat(await readBody(request, cameraFormatInput), null),
  }));
}

/** Puts the general formats back. */
export function DELETE(): Promise<Response> {
  return answer(resetCameraFormats);
}
