import { faultAt, type Fault } from '../fault';
import type { Format } from '../media/format';
import type { Grade } from '../playback/grade';
import type { PlaybackScale } from '../playback/slots';

/** What one camera of a job brings in a day, standing for its format by one clip. */
export interface BriefCamera {
  readonly id: string;
  readonly name: string;
  /** Content of the clip that stands for the camera's originals. */
  readonly contentHash: string;
  readonly clipName: string;
  readonly format: Format;
  readonly meanBitsPerSecond: number;
  /** The largest one-second window. */
  readonly peakBitsPerSecond: number;
  readonly hoursPerDay: number;
}

/** A volume at a rig, where the job may be cut; and what buying it costs. */
export interface BriefPlace {
  readonly rigId: string;
  readonly volumeId: string;
  /** In the currency of the person who asks; null where nothing has to be bought or it is not known. */
  readonly price: number | null;
}

/** The question of a decision. */
export interface Brief {
  readonly question: string;
  readonly cameras: readonly BriefCamera[];
  /** Shooting days of the job. */
  readonly days: number;
  /** Cameras that play at the same time. */
  readonly streams: number;
  /** Grades (colour corrections) on every stream. */
  readonly looks: number;
  readonly scale: PlaybackScale;
  /** Times real time at which it must play: 1 plays, more shuttles. */
  readonly speed: number;
  /** Share of the peak rate kept free, 0.25 asks for a quarter more. */
  readonly margin: number;
  /** The grade that playback must reach. */
  readonly grade: Grade;
  readonly budget: number | null;
  readonly places: readonly BriefPlace[];
  /** What a card in its reader gives, bytes per second; null takes the slowest card that is known. */
  readonly cardBytesPerSecond: number | null;
}

/** Bytes that a camera brings in a day. */
export function bytesPerDay({
  hoursPerDay,
  meanBitsPerSecond,
}: Pick<BriefCamera, 'hoursPerDay' | 'meanBitsPerSecond'>): number {
  return (hoursPerDay * 3_600 * meanBitsPerSecond) / 8;
}

/** What is wrong with a brief, in words and with the field at fault; null when nothing is. */
export function briefProblem(brief: Brief): Fault<string> | null {
  if (brief.cameras.length === 0) return faultAt('cameras', 'brief-cameras');
  if (new Set(brief.cameras.map(({ contentHash }) => contentHash)).size < brief.cameras.length)
    return faultAt('cameras', 'brief-same-clip');
  if (brief.places.length === 0) return faultAt('places', 'brief-places');
  return null;
}
