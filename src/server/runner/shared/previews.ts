import { join } from 'node:path';
import { decodePacketTable } from '@/core/media/packetTable';
import { toNumber } from '@/core/time/rational';
import {
  clipsWithoutPreview,
  getPacketTable,
  previewOfContent,
  savePreview,
  type ClipWithVolume,
} from '@/db/queries/clips';
import { EngineError } from '@/engine/errors';
import { publish } from '../../platform/events';
import { regroup } from '../../library/footage';
import type { MediaReader } from './mediaReader';

/** Clips of one job: a trial that waits gets its turn after them. */
const clipsPerJob = 4;

/** Makes thumbnails, fingerprints and audio peaks of some clips that have none. Returns whether more wait. */
export async function makePreviews(rigId: string, reader: MediaReader): Promise<boolean> {
  const waiting = await clipsWithoutPreview(rigId, clipsPerJob + 1);
  for (const clip of waiting.slice(0, clipsPerJob)) await previewClip(clip, reader);
  if (waiting.length > 0 && waiting.length <= clipsPerJob) {
    await regroup(rigId); // the pictures are known now
    await publish({ type: 'clips' });
  }
  return waiting.length > clipsPerJob;
}

async function previewClip(clip: ClipWithVolume, reader: MediaReader): Promise<void> {
  const base = { clipId: clip.id, contentHash: clip.contentHash ?? '' };
  const twin = clip.contentHash === null ? null : await previewOfContent(clip.contentHash);
  if (twin) {
    await savePreview({ ...twin, ...base });
    return;
  }
  try {
    const packets = await getPacketTable(clip.id);
    if (!packets || !clip.setup || !clip.format) throw new EngineError('clip-not-read-fully');
    const source = {
      path: join(clip.volumePath, clip.path),
      setup: clip.setup,
      rate: clip.format.rate,
      packets: decodePacketTable(packets),
    };
    const { strip, peaks, fingerprint, ...made } = await reader.ask({
      kind: 'preview',
      source,
      pixelAspect: toNumber(clip.identity?.pixelAspect ?? { num: 1, den: 1 }) || 1,
    });
    await savePreview({
      ...base,
      ...made,
      strip: Buffer.from(strip),
      peaks: peaks && Buffer.from(peaks),
      fingerprint: Buffer.from(fingerprint),
      problem: null,
    });
  } catch (error) {
    await savePreview({
      ...base,
      strip: null,
      peaks: null,
      fingerprint: null,
      problem: error instanceof Error ? error.message : String(error),
    });
  }
}
