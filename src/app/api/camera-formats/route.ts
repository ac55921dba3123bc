import { cameraFormats, putCameraFormat, resetCameraFormats } from '@/server/cameraFormats';
import { route } from '@/server/http';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/camera-formats', cameraFormats);

export const POST = route('POST /api/camera-formats', async ({ body }) => ({
  id: await putCameraFormat(body, null),
}));

/** Puts the general formats back. */
export const DELETE = route('DELETE /api/camera-formats', resetCameraFormats);
