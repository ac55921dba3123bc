import type { InferType } from '@/core/edge/strict';
import type { DeviceReport } from '@/core/decode/device';
import { decodeSupportInput } from '@/core/kinds/decodeSupport';
import type { ClipWithVolume } from '@/db/queries/clips';
import { devicesOfRig, playable, queueAll, readSupportPage } from '../library/decode';
import { RequestError } from '../platform/errors';
import type { KindServer } from './kind';
import { linesCsv } from './shared/lines';

/** Queues a decode-support trial for each clip and device. Without clips: one clip of every format class that has no verdict yet on a device. */
export async function startDecodeSupport({
  clipIds,
  deviceIds,
  passSeconds,
  mostPairs,
}: InferType<typeof decodeSupportInput>): Promise<string[]> {
  const usable = (await devicesOfRig()).filter(({ usable: works }) => works);
  const devices =
    deviceIds.length > 0 ? deviceIds.map((id) => usable.find((device) => device.id === id)) : usable;
  if (devices.length === 0) throw new RequestError('no-decode-device', {}, 'deviceIds');
  const pairs: { clip: ClipWithVolume; device: DeviceReport }[] = [];
  const cells = clipIds.length > 0 ? null : await readSupportPage();
  const clips =
    clipIds.length > 0
      ? await playable(clipIds)
      : await playable(cells?.rows.map(({ clipId }) => clipId) ?? []);
  for (const clip of clips) {
    for (const device of devices) {
      if (!device) throw new RequestError('decode-device-unusable', {}, 'deviceIds');
      const row = cells?.rows.find(({ clipId }) => clipId === clip.id);
      if (
        !row ||
        !row.cells.some(
          (cell) => cell.deviceId === device.id && (cell.trial !== null || cell.underWay !== null),
        )
      )
        pairs.push({ clip, device });
    }
  }
  return queueAll(
    pairs.map(({ clip, device }) => ({
      clip,
      device,
      settings: { kind: 'decode-support', deviceId: device.id, passSeconds, mostPairs },
    })),
  );
}

export const decodeSupport: KindServer<'decode-support'> = {
  start: async (input) => startDecodeSupport(input),
  csv: ({ record }) => linesCsv((record?.passes ?? []).map((pass) => ({ ...pass }))),
};
