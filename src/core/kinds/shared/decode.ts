import type { DeviceReport } from '../../decode/device';
import type { DecodePass, DecodeResult, SeekCost, StreamsStep } from '../../decode/result';
import { decodeSentence } from '../../sentences/decode';
import type { ClipFaults } from '../../media/faults';
import { fileName } from '../../media/fileName';
import { formatLabel, type Format } from '../../media/format';
import type { FrameStructure } from '../../media/frameStructure';
import { plainName } from '../../simulated';
import { rateLabel, type Rational } from '../../time/rational';
import type { DecodeStreamsSettings } from '../decodeStreams';
import type { RateSettings } from '../decodeRate';
import type { SupportSettings } from '../decodeSupport';
import type { FindingContext, Names, Words } from '../kind';
import type { RigConditions } from './conditions';
import { contentWords } from './played';

export type DecodeSettings = RateSettings | SupportSettings | DecodeStreamsSettings;

export interface DecodeProgress {
  /** What is under way, in words. */
  readonly note: string;
  /** Work done of all in this process, 0 to 1. */
  readonly share: number;
  /** Grows with every frame: what the watchdog looks at. */
  readonly frames: number;
  readonly framesPerSecond: number;
  readonly msLeft: number | null;
}

/** What a decode trial was made on, kept with it so that it stays whole when a clip goes. */
export interface DecodeSubject {
  readonly clipPath: string;
  readonly volumeName: string;
  readonly contentHash: string | null;
  readonly format: Format;
  readonly structure: FrameStructure;
  readonly frames: number;
  readonly meanBitsPerSecond: number;
  /** The device as it was when asked for; absent for software alone. */
  readonly device: DeviceReport | null;
}

/** What a decode trial has measured so far. */
export interface DecodeRecord {
  readonly passes: readonly DecodePass[];
  /** By column: type and µs of each frame of the first pass on one core. */
  readonly costs: { readonly type: readonly number[]; readonly costUs: readonly number[] } | null;
  readonly seeks: readonly SeekCost[];
  readonly memoryBytes: number | null;
  readonly steps: readonly StreamsStep[];
  /** Frames that are not whole; absent: none was met. */
  readonly faults?: ClipFaults;
}

/** What trials keep that decode without deadlines. */
export interface DecodeShape {
  readonly subject: DecodeSubject;
  readonly conditions: RigConditions;
  readonly progress: DecodeProgress;
  readonly record: DecodeRecord;
}
export const decodePage = '/media/decode';

export const decodeNames = ({ clipPath, volumeName }: DecodeSubject, how = ''): Names => ({
  subject: fileName(clipPath),
  volumes: [volumeName],
  how,
});

/** What was decoded, where the settings tell by what. */
export const decodedUnder = ({
  subject: { clipPath, format, contentHash },
}: Pick<DecodeShape, 'subject'>): Words => ({
  Content: fileName(clipPath),
  Format: `${formatLabel(format)}, ${rateLabel(format.rate)}`,
  'Clip content': contentWords(contentHash),
});

/** What was decoded, and by what. */
export const decodeUnder = ({ subject }: Pick<DecodeShape, 'subject'>): Words => ({
  ...decodedUnder({ subject }),
  Device: subject.device ? plainName(subject.device.name, subject.device.simulated) : 'software',
});

const unknownRate: Rational = { num: 0, den: 1 };

export const decodeAnswer = ({
  summary,
  rate,
  deviceName,
}: FindingContext & { readonly summary: DecodeResult }): string =>
  decodeSentence(summary, rate ?? unknownRate, deviceName);
