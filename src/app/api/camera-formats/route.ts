import { cameraFormats, putCameraFormat, resetCameraFormats } from '@/server/library/cameraFormats';
import { route } from '@/server/platform/http';

export const dynamic = 'force-dynamic';

export const GET = route('GET /api/camera-formats', cameraFormats);

export const POST = route('POST /api/camera-formats', async ({ body }) => ({
  id: await putCameraFormat(body, null),
}));

/** Puts the general formats back. */
export const DELETE = route('DELETE /api/camera-formats', resetCameraFormats);
