import { changeCameraFormat, deleteCameraFormat, putCameraFormat } from '@/server/library/cameraFormats';
import { route } from '@/server/platform/http';

export const PATCH = route('PATCH /api/camera-formats/{id}', async ({ ids, body }) => ({
  id: await changeCameraFormat(body, ids.id),
}));

/** Puts one that was removed back under its id. */
export const PUT = route('PUT /api/camera-formats/{id}', async ({ ids, body }) => ({
  id: await putCameraFormat(body, ids.id),
}));

export const DELETE = route('DELETE /api/camera-formats/{id}', ({ ids }) => deleteCameraFormat(ids.id));
