import type { BundleTrial } from '@/core/formats/bundleTypes';
import type { CellAddress } from '@/core/plan/matrix';

/** Names of a rig's things elsewhere: those of its volumes stand below it, so that two rigs may have the same. */
export const below = (rigId: string) => ({
  in: (id: string) => `${rigId}:${id}`,
  out: (id: string) => (id.startsWith(`${rigId}:`) ? id.slice(rigId.length + 1) : id),
});

/** A condition with its volume under another name. */
export const mapAddress = (address: CellAddress, volumeId: (id: string) => string): CellAddress => ({
  ...address,
  volumeId: address.volumeId === null ? null : volumeId(address.volumeId),
});

export type Subject = BundleTrial['subject'];

/** A subject with its volumes under other names. */
export function mapSubject(subject: Subject, volumeId: (id: string) => string): Subject {
  const own =
    'volumeId' in subject && typeof subject.volumeId === 'string'
      ? { ...subject, volumeId: volumeId(subject.volumeId) }
      : subject;
  if (!('timeline' in own) || !own.timeline) return own;
  const media = Object.fromEntries(
    Object.entries(own.timeline.media).map(([id, use]) => [id, { ...use, volumeId: volumeId(use.volumeId) }]),
  );
  return { ...own, timeline: { ...own.timeline, media } };
}

type Settings = BundleTrial['settings'];

/** Settings with the volumes that they go to under other names. */
export function mapSettings(settings: Settings, volumeId: (id: string) => string): Settings {
  if ('destinations' in settings)
    return {
      ...settings,
      destinations: settings.destinations.map((target) => ({
        ...target,
        volumeId: volumeId(target.volumeId),
      })),
    };
  return 'volumeId' in settings ? { ...settings, volumeId: volumeId(settings.volumeId) } : settings;
}
