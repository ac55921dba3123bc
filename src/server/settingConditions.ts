import type { TrialKind } from '@/core/kinds/kinds';
import { presetOf } from '@/core/rendition/presets';
import { rateLabel } from '@/core/time/rational';
import type { TrialRow } from '@/db/kinds';
import type { PlaybackSettings } from '@/engine/playback/spec';

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

/** Settings of each kind: a kind without a line here does not compile. */
const kinds: { readonly [Kind in TrialKind]: Told<TrialRow<Kind>['settings']> } = {
  playback,
  'self-check': playback,
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
  calibration: { threads, warm: cache },
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
  'streams-carried': {
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
  'decode-rate': {
    passSeconds: (seconds) => ({ 'Length of a pass': `${seconds} s` }),
    passes: aside('more passes make the same figure surer'),
  },
  'decode-support': {
    deviceId: aside('told as the device'),
    passSeconds: (seconds) => ({ 'Length of a pass': `${seconds} s` }),
    mostPairs: aside('pairs end with a verdict; more of them make the same ratio surer'),
  },
  'decode-streams': {
    rate: (rate) => ({ 'Played at': rateLabel(rate) }),
    scale,
    seconds: (seconds) => ({ 'Length of a step': `${seconds} s` }),
    mostStreams: mostTried,
  },
  renditions: {
    presetId: (id) => ({ Preset: presetOf(id).name }),
    raster: (raster) => ({ Raster: raster }),
    volumeId: aside('told as the volume'),
    folder: (folder) => ({ Folder: folder || 'all' }),
    lanes: (lanes) => ({ 'Clips at a time': lanes === null ? 'as many as are best' : String(lanes) }),
  },
};

/** The settings of a trial as conditions, by name and in words. */
export function settingConditions({
  kind,
  settings,
}: Pick<TrialRow, 'kind' | 'settings'>): Record<string, string> {
  const values = new Map<string, unknown>(Object.entries(settings));
  const tellers = Object.entries(kinds[kind]) as [
    string,
    ((value: unknown, settings: object) => Readonly<Record<string, string>>) | Aside,
  ][];
  return Object.assign(
    {},
    ...tellers.map(([key, tell]) => (typeof tell === 'function' ? tell(values.get(key), settings) : {})),
  ) as Record<string, string>;
}
