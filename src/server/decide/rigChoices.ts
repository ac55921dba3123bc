import { isSoftwareAlone } from '@/core/decode/decoding';
import { formatClass } from '@/core/media/format';
import type { RigChoices } from '@/core/playback/cures';
import type { MediaUse } from '@/core/timeline/subject';
import { plainName } from '@/core/simulated';
import { getClips } from '@/db/queries/clips';
import { getRig } from '@/db/queries/rigs';
import { getVersion } from '@/db/queries/timelines';
import { finishedRates, listTrials } from '@/db/queries/trials';
import type { PlayedTrial } from '@/db/kinds';
import { filesFor, formOf } from '../timelines/timelineMedia';
import { decodeRate } from '../timelines/timelineForecast';
import { greatest, least } from '@/core/stats/extremes';

/** What could be played instead of what a trial played, or with, as far as it was measured on its rig. */
export async function rigChoicesOf(
  trial: Pick<PlayedTrial, 'rigId' | 'clipId' | 'subject' | 'settings'>,
): Promise<RigChoices> {
  const pairs = await formsOf(trial);
  const rates = await finishedRates(trial.rigId);
  return {
    proxies: pairs && (await proxiesOf(pairs, rates, trial.subject.timeline !== undefined)),
    // What a device takes was measured against software: of a run that a device decoded it says nothing.
    devices: isSoftwareAlone(trial.settings.decoding) ? await devicesOf(trial) : [],
  };
}

/** A medium as it was read, with its lightest form. */
interface Pair {
  readonly read: Pick<MediaUse, 'clipId' | 'contentHash' | 'format'>;
  readonly proxy: MediaUse;
}

/** Every medium of a trial with its proxy; null where one has none, or was a proxy already. */
async function formsOf({
  clipId,
  subject,
}: Pick<PlayedTrial, 'clipId' | 'subject'>): Promise<readonly Pair[] | null> {
  if (!subject.timeline) {
    const [clip] = clipId === null ? [] : await getClips([clipId]);
    const proxy = clip && (await formOf(clip, { read: 'proxies', volumeId: null }));
    return clip?.format && proxy && proxy.role === 'rendition' && proxy.clipId !== clip.id
      ? [{ read: { clipId: clip.id, contentHash: clip.contentHash, format: clip.format }, proxy }]
      : null;
  }
  const { id, version, media } = subject.timeline;
  const document = await getVersion(id, version);
  if (!document) return null;
  const { media: proxies } = await filesFor(document.document, new Set(Object.keys(media)), {
    read: 'proxies',
    volumeId: null,
  });
  const pairs = Object.entries(media).flatMap(([medium, read]) => {
    const proxy = proxies[medium];
    return proxy && proxy.role === 'rendition' && proxy.clipId !== read.clipId ? [{ read, proxy }] : [];
  });
  return pairs.length > 0 && pairs.length === Object.keys(media).length ? pairs : null;
}

/** The greatest share of bytes and of decode time that any proxy takes of what it stands for. */
async function proxiesOf(
  pairs: readonly Pair[],
  rates: Awaited<ReturnType<typeof finishedRates>>,
  isTimeline: boolean,
): Promise<RigChoices['proxies']> {
  const clips = new Map(
    (await getClips(pairs.flatMap(({ read, proxy }) => [read.clipId, proxy.clipId]))).map((clip) => [
      clip.id,
      clip,
    ]),
  );
  const shares = pairs.map(({ read, proxy }) => {
    const [whole, light] = [decodeRate(read, rates), decodeRate(proxy, rates)];
    const [wholeBits, lightBits] = [
      clips.get(read.clipId)?.meanBitsPerSecond,
      clips.get(proxy.clipId)?.meanBitsPerSecond,
    ];
    return whole && light && wholeBits && lightBits
      ? { read: lightBits / wholeBits, decode: whole.framesPerSecond / light.framesPerSecond }
      : null;
  });
  const told = shares.filter((share) => share !== null);
  if (told.length < shares.length) return null;
  const [only] = pairs;
  return {
    clipId: isTimeline ? null : (only?.proxy.clipId ?? null),
    read: greatest(told.map(({ read }) => read)),
    decode: greatest(told.map(({ decode }) => decode)),
  };
}

/** Devices that were proved to decode every format of a trial, as fast against software on all cores as the surest of their figures says. */
async function devicesOf({
  rigId,
  subject,
}: Pick<PlayedTrial, 'rigId' | 'subject'>): Promise<RigChoices['devices']> {
  const classes = new Set(
    subject.timeline
      ? Object.values(subject.timeline.media).map(({ format }) => formatClass(format))
      : [formatClass(subject.format)],
  );
  const [trials, rig] = await Promise.all([
    listTrials({ rigId, kinds: ['decode-support'], statuses: ['done'] }, 2_000),
    getRig(rigId),
  ]);
  return (rig?.devices ?? [])
    .filter(({ usable }) => usable)
    .flatMap(({ id, name, simulated }) => {
      const times = [...classes]
        .map((wanted) => {
          const newest = trials.find(
            (trial) => formatClass(trial.subject.format) === wanted && trial.settings.deviceId === id,
          );
          if (newest?.summary?.verdict !== 'accelerated') return null;
          const { parts } = newest.summary;
          return (parts.find(({ cores }) => cores === 'all') ?? parts[0])?.ratio?.low ?? null;
        })
        .filter((ratio) => ratio !== null);
      return times.length === classes.size && least(times) > 1
        ? [{ deviceId: id, name: plainName(name, simulated), times: least(times) }]
        : [];
    });
}
