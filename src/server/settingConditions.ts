import { rateLabel } from '@/core/time/rational';
import type { DecodeSettings } from '@/engine/decode/spec';
import type { PlaybackSettings } from '@/engine/playback/spec';
import type { TimelineTestSettings } from '@/engine/scrub/spec';
import type { StorageSettings } from '@/engine/storage/spec';

/** A setting that is no condition of its own, with the reason. */
interface Aside {
  readonly aside: string;
}

/**
 * How each setting of a kind of trial is told as a condition, by name and in words, or why it is none. A setting that
 * is forgotten here does not compile: two trials that differ in it would count as alike.
 */
type Told<Settings> = {
  readonly [Key in Exclude<keyof Settings, 'kind'>]-?:
    ((value: Settings[Key], settings: Settings) => Readonly<Record<string, string>>) | Aside;
};

const aside = (reason: string): Aside => ({ aside: reason });

const scrubWords = {
  'slow-drag': 'slow drag',
  'fast-drag': 'fast drag',
  'jump-play': 'jump and play',
  'step-forward': 'step forward',
  'step-backward': 'step backward',
  shuttle: 'shuttle',
  jumps: 'jumps',
  recorded: 'recorded',
} as const;

const threads = (count: number) => ({ 'Decoder threads': count === 0 ? 'one per core' : String(count) });
const cache = (warm: boolean) => ({ 'System cache': warm ? 'warm, on purpose' : 'cold' });
const scale = (value: string) => ({ 'Playback scale': value });
const mostTried = (most: number) => ({ 'Most tried': String(most) });

const playback: Told<PlaybackSettings> = {
  scale,
  policy: (policy) => ({ 'Late frames': policy === 'hold-time' ? 'hold time' : 'every frame' }),
  threads,
  warm: cache,
  processing: (isOn) => ({ Processing: isOn ? 'on' : 'off' }),
  buffers: ({ readAhead, decoded, ready }) => ({
    Buffers: `${readAhead} read, ${decoded} decoded, ${ready} ready`,
  }),
  slotLimit: (slots) => ({ 'Played slots': slots === null ? 'all' : `first ${slots}` }),
  faults: (faults) => ({
    'Injected faults':
      faults.map(({ stage, slot, slots }) => `${stage} at ${slot} for ${slots}`).join(', ') || 'none',
  }),
};

type OfKind<Settings, Kind> = Extract<Settings, { readonly kind: Kind }>;

const timelineTests: {
  readonly [Kind in TimelineTestSettings['kind']]: Told<OfKind<TimelineTestSettings, Kind>>;
} = {
  scrub: {
    gesture: (gesture) => ({
      Gesture:
        gesture.kind === 'recorded'
          ? `${gesture.name} (${gesture.gestureId})`
          : `${scrubWords[gesture.kind]}, seed ${gesture.seed}, speed ${gesture.speed}x`,
    }),
    scale,
    threads,
    warm: cache,
  },
  ramp: {
    family: (family) => ({ 'Ramp of': family }),
    most: mostTried,
    seconds: (seconds) => ({ 'Length of a probe': `${seconds} s` }),
    scales: (scales) => ({ 'Playback scale': scales.join(', ') }),
    threads,
    warm: cache,
  },
  costs: { threads, warm: cache },
};

const storage: { readonly [Kind in StorageSettings['kind']]: Told<OfKind<StorageSettings, Kind>> } = {
  throughput: {
    test: aside('it is the test itself'),
    blockBytes: (bytes) => ({ Block: `${bytes / 1024} kiB` }),
    bytes: (bytes, { seconds }) => ({ Length: `${bytes / 1e6} MB or ${seconds} s` }),
    seconds: aside('told with the bytes'),
    repeats: (repeats) => ({ 'Repeats in a trial': String(repeats) }), // later ones may come from the server's memory
    streams: (streams, { test }) => ({ Streams: test === 'frame-paced' ? String(streams) : '1' }),
    clipId: aside('told by its path'),
    clipPath: (path) => ({ Reads: path ?? 'a test file' }),
  },
  streams: {
    clipId: aside('told by its path'),
    clipPath: (path) => ({ Reads: path }),
    seconds: (seconds) => ({ 'Length of a step': `${seconds} s` }),
    mostStreams: mostTried,
  },
  copy: {
    folder: (folder) => ({ Folder: folder || 'all' }),
    destinations: (all) => ({
      Destinations: all.map(({ volumeName, folder }) => `${volumeName}, ${folder}`).join('; '),
    }),
    verify: (isOn) => ({ 'Read back': isOn ? 'yes' : 'no' }),
  },
};

const decode: { readonly [Kind in DecodeSettings['kind']]: Told<OfKind<DecodeSettings, Kind>> } = {
  rate: {
    passSeconds: (seconds) => ({ 'Length of a pass': `${seconds} s` }),
    passes: aside('more passes make the same figure surer'),
  },
  support: {
    deviceId: aside('told as the device'),
    passSeconds: (seconds) => ({ 'Length of a pass': `${seconds} s` }),
    mostPairs: aside('pairs end with a verdict; more of them make the same ratio surer'),
  },
  streams: {
    rate: (rate) => ({ 'Played at': rateLabel(rate) }),
    scale,
    seconds: (seconds) => ({ 'Length of a step': `${seconds} s` }),
    mostStreams: mostTried,
  },
};

/** @param told the table of the settings' kind */
function conditions(settings: object, told: object): Record<string, string> {
  const values = new Map<string, unknown>(Object.entries(settings));
  const tellers = Object.entries(told) as [
    string,
    ((value: unknown, settings: object) => Readonly<Record<string, string>>) | Aside,
  ][];
  return Object.assign(
    {},
    ...tellers.map(([key, tell]) => (typeof tell === 'function' ? tell(values.get(key), settings) : {})),
  ) as Record<string, string>;
}

export const playbackConditions = (settings: PlaybackSettings) => conditions(settings, playback);
export const timelineTestConditions = (settings: TimelineTestSettings) =>
  conditions(settings, timelineTests[settings.kind]);
export const storageConditions = (settings: StorageSettings) => conditions(settings, storage[settings.kind]);
export const decodeConditions = (settings: DecodeSettings) => conditions(settings, decode[settings.kind]);
