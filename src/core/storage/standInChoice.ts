import { faultAt, type Fault } from '../fault';
import { percent, quantity } from '../format';
import { layoutProblem, type ArrayLevel } from './array';
import type { ScriptedFault, StorageModel } from './model';
import { drivePreset, drivePresets, linkPreset, linkPresets } from './presets';

/** A stand-in as a person describes it: presets and what differs from them. */
export interface StandInChoice {
  readonly link: string;
  readonly drive: string;
  readonly level: ArrayLevel;
  readonly drives: number;
  readonly cacheGigabytes: number;
  /** Null keeps the link's own. */
  readonly roundTripMs: number | null;
  readonly depth: number | null;
  readonly jitterMs: number;
  readonly othersMegabytesPerSecond: number;
  readonly fault: ScriptedFault | null;
  readonly seed: number;
}

const cacheBytesPerSecond = 4e9;

/** What is wrong with a choice, in words; null when nothing is. */
export function standInProblem(choice: StandInChoice): Fault | null {
  if (!(choice.link in linkPresets)) return faultAt(null, 'stand-in-link');
  if (!(choice.drive in drivePresets)) return faultAt(null, 'stand-in-drive');
  return layoutProblem(choice);
}

/** The model of a choice. @throws RangeError for a choice with a problem */
export function standInModel(choice: StandInChoice): StorageModel {
  const problem = standInProblem(choice);
  if (problem) throw new RangeError(problem.message);
  const link = linkPreset(choice.link);
  return {
    link: {
      ...link,
      roundTripUs: choice.roundTripMs === null ? link.roundTripUs : choice.roundTripMs * 1000,
      depth: choice.depth ?? link.depth,
    },
    drive: drivePreset(choice.drive),
    level: choice.level,
    drives: choice.drives,
    cache: { bytes: choice.cacheGigabytes * 1e9, bytesPerSecond: cacheBytesPerSecond },
    jitterUs: choice.jitterMs * 1000,
    othersBytesPerSecond: choice.othersMegabytesPerSecond * 1e6,
    fault: choice.fault,
    seed: choice.seed,
  };
}

/** A model in a line: "10 Gb/s Ethernet, normal frames; 8 drives at level 6, Rotating disk, 18 TB". */
export function modelLabel({
  link,
  drive,
  level,
  drives,
  cache,
  othersBytesPerSecond,
  fault,
}: StorageModel): string {
  const array = drives === 1 ? drive.label : `${drives} drives at level ${level}, ${drive.label}`;
  const more = [
    cache.bytes > 0 && `server cache ${quantity(cache.bytes / 1e9, 'GB')}`,
    othersBytesPerSecond > 0 && `other clients take ${quantity(othersBytesPerSecond / 1e6, 'MB/s')}`,
    fault && faultLabel(fault),
  ].filter((part) => typeof part === 'string');
  return [link.label, array, ...more].join('; ');
}

/** A scripted fault in words. */
export function faultLabel(fault: ScriptedFault): string {
  switch (fault.kind) {
    case 'drop-out':
      return `drops out for ${quantity(fault.seconds, 's')} after ${quantity(fault.atSeconds, 's')}`;
    case 'slow-drive':
      return `one drive falls to ${percent(fault.share, 0)} after ${quantity(fault.atSeconds, 's')}`;
    case 'lower-link':
      return `link falls to ${fault.lineBitsPerSecond / 1e9} Gb/s after ${quantity(fault.atSeconds, 's')}`;
    case 'read-error':
      return `read errors after ${quantity(fault.atSeconds, 's')}`;
    case 'full':
      return `full after ${quantity(fault.afterBytes / 1e6, 'MB')} written`;
    case 'read-only':
      return 'read-only';
  }
}
