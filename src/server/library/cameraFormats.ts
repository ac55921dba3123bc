import 'server-only';
import { randomUUID } from 'node:crypto';
import type { InferType } from '@/core/edge/strict';
import { generalFormats, type CameraFormat } from '@/core/storage/cameraFormats';
import {
  listCameraFormats,
  removeCameraFormat,
  replaceCameraFormats,
  saveCameraFormat,
  type CameraFormatRow,
} from '@/db/queries/cameraFormats';
import type { cameraFormatInput } from '@/core/asked/volumes';
import { RequestError } from '../platform/errors';

/** The table of camera formats; an empty one is filled with the general ones. */
export async function cameraFormats(): Promise<CameraFormatRow[]> {
  const rows = await listCameraFormats();
  return rows.length > 0 ? rows : resetCameraFormats();
}

/** Puts the general formats in the place of what is there. */
export async function resetCameraFormats(): Promise<CameraFormatRow[]> {
  await replaceCameraFormats(
    generalFormats.map((format: CameraFormat, position) => ({
      id: `general-${position}`,
      position,
      ...format,
    })),
  );
  return listCameraFormats();
}

const noFormat = () => new RequestError('no-such-camera-format');

/** @throws RequestError when there is none with this id */
export async function changeCameraFormat(
  input: InferType<typeof cameraFormatInput>,
  id: string,
): Promise<string> {
  if (!(await listCameraFormats()).some((row) => row.id === id)) throw noFormat();
  return putCameraFormat(input, id);
}

/** Adds a format at the end, or puts it in the place of the one with this id. Returns its id. */
export async function putCameraFormat(
  input: InferType<typeof cameraFormatInput>,
  id: string | null,
): Promise<string> {
  const rows = await listCameraFormats();
  const known = rows.find((row) => row.id === id);
  const row = { id: id ?? `format-${randomUUID()}`, position: known?.position ?? rows.length, ...input };
  await saveCameraFormat(row);
  return row.id;
}

export async function deleteCameraFormat(id: string): Promise<void> {
  if (!(await removeCameraFormat(id))) throw noFormat();
}
