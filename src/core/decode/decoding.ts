import { plainName } from '../simulated';

/** The processor, where a list of devices names it beside others. */
export const softwareId = 'software';

/** Shares of a run's streams come whole, up to this. */
export const mostShare = 100;
/** Devices that one run may be shared out to, the processor among them. */
export const mostSharing = 8;

/**
 * How a device's pictures come to memory: whole, for the processor to scale; or scaled by the device to what is shown
 * of them, so that less comes. Either way they lie in memory then, where effects are worked out.
 */
export const frameWays = ['whole', 'scaled'] as const;
export type FrameWay = (typeof frameWays)[number];

/** A device that decodes a part of a run's streams, as it was when asked for. */
export interface DeviceUse {
  readonly deviceId: string;
  /** As the codec library names its kind, or the stand-in's name. */
  readonly name: string;
  readonly simulated: boolean;
  /** Of all shares together. */
  readonly share: number;
  /** Absent: whole. */
  readonly frames?: FrameWay;
}

/** What a run is decoded by; empty, or absent in trials from before it could be chosen: software alone. */
export type Decoding = readonly DeviceUse[];

/** True where all is decoded by the processor. */
export function isSoftwareAlone(decoding: Decoding | undefined): boolean {
  return (decoding ?? []).every(({ deviceId }) => deviceId === softwareId);
}

/** Whether a figure of a run stands on a made-up device. */
export function isSimulatedDecoding(decoding: Decoding | undefined): boolean {
  return (decoding ?? []).some(({ simulated }) => simulated);
}

/** What asks for the same again. */
export function askedAgain(
  decoding: Decoding | undefined,
): Pick<DeviceUse, 'deviceId' | 'share' | 'frames'>[] {
  return (decoding ?? []).map(({ deviceId, share, frames }) => ({
    deviceId,
    share,
    ...(frames === undefined ? {} : { frames }),
  }));
}

/** "Spring (simulated)", or with shares "vaapi 2 : software 1". */
export function decodingWords(decoding: Decoding | undefined): string {
  const uses = decoding ?? [];
  return (
    uses
      .map(({ name, simulated, share, frames }) => {
        const part = uses.length < 2 ? '' : ` ${share}`;
        return `${plainName(name, simulated)}${part}${frames === 'scaled' ? ', pictures scaled there' : ''}`;
      })
      .join(' : ') || 'software'
  );
}

/**
 * Shares streams out to devices: each next stream goes where the load that was given falls farthest behind its
 * share of all load with it, to the first of those that are alike. Of streams that are alike, every device is
 * within one of its share at any time (smooth weighted round robin).
 */
export class ShareOut {
  private readonly given: number[];
  private readonly allShares: number;
  private total = 0;

  /** @param shares one for each device; none: nothing is shared out */
  constructor(private readonly shares: readonly number[]) {
    this.given = shares.map(() => 0);
    this.allShares = shares.reduce((sum, share) => sum + share, 0);
  }

  /** @param load of the stream, in any unit above 0 @returns the device's place in the list; -1 where there is none */
  next(load: number): number {
    this.total += load;
    const behind = this.shares.map(
      (share, at) => (this.total * share) / this.allShares - (this.given[at] ?? 0),
    );
    const place = behind.reduce((best, value, at) => (value > (behind[best] ?? Infinity) ? at : best), 0);
    if (behind.length === 0) return -1;
    this.given[place] = (this.given[place] ?? 0) + load;
    return place;
  }
}

/** One stream of a run: what was to decode it, and what did. */
export interface DecodedStream {
  /** The timeline's item; empty for a clip by itself. */
  readonly item: string;
  /** The item's track, from 0 for the lowest; of a clip by itself, or of streams of one clip, its place among them. */
  readonly track: number;
  readonly clip: string;
  /** Place in the run's list of devices. */
  readonly device: number;
  /** What gave its frames, as the codec library or the stand-in names it. */
  readonly decoder: string;
  readonly frames: number;
  /** Frames that came from the device; fewer than all: the rest fell back to software without reporting it. */
  readonly onDevice: number;
  /** Of those: frames that the device scaled before they came to memory; absent in trials from before it could. */
  readonly scaled?: number;
}

/** True where a device was asked for and software gave some of the frames. */
export function fellBack({ frames, onDevice }: DecodedStream, use: DeviceUse | undefined): boolean {
  return use !== undefined && use.deviceId !== softwareId && onDevice < frames;
}

/** What one device of a run drew. */
export interface DeviceDrew {
  readonly use: DeviceUse;
  readonly streams: number;
  readonly frames: number;
  readonly onDevice: number;
  readonly scaled: number;
  /** Its part of all frames, 0 to 1. */
  readonly part: number;
  /** Streams of it that software decoded, wholly or in part. */
  readonly fallen: readonly DecodedStream[];
}

/** What each device of a run drew, in the order of the run's list. */
export function drewByDevice(decoding: Decoding, streams: readonly DecodedStream[]): DeviceDrew[] {
  const all = streams.reduce((sum, { frames }) => sum + frames, 0);
  return decoding.map((use, at) => {
    const own = streams.filter(({ device }) => device === at);
    const sum = (of: (stream: DecodedStream) => number) =>
      own.reduce((total, stream) => total + of(stream), 0);
    const frames = sum((stream) => stream.frames);
    return {
      use,
      streams: own.length,
      frames,
      onDevice: sum((stream) => stream.onDevice),
      scaled: sum((stream) => stream.scaled ?? 0),
      part: all > 0 ? frames / all : 0,
      fallen: own.filter((stream) => fellBack(stream, use)),
    };
  });
}

/**
 * Frames that lie in a decoder before the first comes out in display order: how many that come later in display
 * come earlier in decoding, at most.
 * @param slots each frame's place in display order, in decode order
 */
export function reorderDepth(slots: ArrayLike<number>): number {
  const waiting: number[] = [];
  let next = 0;
  let deepest = 0;
  const order = Array.from(slots).sort((a, b) => a - b);
  for (let row = 0; row < slots.length; row++) {
    waiting.push(slots[row] as number);
    for (
      let at = waiting.indexOf(order[next] as number);
      at >= 0;
      at = waiting.indexOf(order[next] as number)
    ) {
      waiting.splice(at, 1);
      next++;
    }
    deepest = Math.max(deepest, waiting.length);
  }
  return deepest;
}
