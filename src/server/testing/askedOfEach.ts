import { standInDevices } from '@/core/decode/standIns';
import type { TrialKind } from '@/core/kinds/kinds';
import type { ClipWithVolume } from '@/db/queries/clips';

/** A hash list that a verification is asked for with: it has to be kept first. */
export const heldList = {
  id: 'held-list',
  name: 'card.md5',
  text: `${'0'.repeat(32)}  never-there.mov\n`,
};

/** A short trial of each kind as a page or a script asks for it, of a clip. @param target id of the volume that it writes to */
export const askedOfEach = (
  clip: ClipWithVolume,
  target: string,
): { readonly [Kind in TrialKind]: object } => ({
  playback: { clipId: clip.id, scale: 'half', policy: 'hold-time', threads: 0, warm: false },
  'self-check': {},
  scrub: { clipId: clip.id, gestures: ['step-forward'], seed: 4, speed: 4, scale: 'half' },
  ramp: { clipId: clip.id, family: 'streams', most: 2, seconds: 1, scales: ['quarter'] },
  calibration: { clipId: clip.id },
  'decode-rate': { clipIds: [clip.id], passSeconds: 0.2, passes: 1 },
  'decode-support': { clipIds: [clip.id], deviceIds: [standInDevices[0]!.id], passSeconds: 0.2 },
  'decode-streams': { clipId: clip.id, scale: 'quarter', seconds: 1, mostStreams: 2 },
  throughput: {
    volumeId: target,
    test: 'sequential-read',
    blockBytes: 2 ** 20,
    bytes: 2 ** 24,
    seconds: 5,
    repeats: 1,
  },
  'streams-carried': { clipId: clip.id, seconds: 2, mostStreams: 2 },
  verification: { volumeId: clip.volumeId, folder: '', listId: heldList.id },
  copy: { volumeId: clip.volumeId, folder: '', destinations: [{ volumeId: target, folder: 'card' }] },
  export: {
    clipId: clip.id,
    codec: 'h264',
    picture: '8-bit 4:2:0',
    control: 'quality',
    quality: 24,
    speed: 'fastest',
    targetVolumeId: target,
  },
  'pre-render': { clipId: clip.id, intermediate: 'mjpeg', targetVolumeId: target },
  analysis: { clipId: clip.id, work: 'track', points: 20, targetVolumeId: target },
  opening: { clipId: clip.id, lanes: 1 },
  soak: { minutes: 1, work: { kind: 'playback', clipId: clip.id, scale: 'half' } },
  renditions: { clipIds: [clip.id], presetId: 'mjpeg', raster: 'half', volumeId: target, folder: 'proxies' },
});
