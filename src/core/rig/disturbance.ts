import { percent, quantity } from '../format';
/**
 * Load by other processes above which a measurement is called disturbed, as a
 * share of all cores. Our own choice: on four cores it is more than half of one.
 */
export const disturbingLoad = 0.15;
/** Bytes a second that others move on disks, or that pass the network, above which a measurement is called disturbed. Our own choice: a fifth of what a portable disk gives. */
const disturbingBytesPerSecond = 20e6;

/** What a network carries besides the bytes that a program asks for: headers, acknowledgements, reading ahead. Our own allowance. */
const networkOverhead = 0.15;

/**
 * What passed the network besides what a trial moved over it by itself, bytes per second; null where the system does not tell.
 * @param own what the trial read and wrote over the network, 0 for one that did not
 */
export function networkBesides(all: number | null, own: number | null): number | null {
  return all === null || own === null ? null : Math.max(0, all - own * (1 + networkOverhead));
}

/** Share of the time in which a trial was ready to run and others had its cores from which a measurement is called disturbed. Our own choice. */
const disturbingLoss = 0.1;

/** What other processes did over a run. Rates in bytes per second, null where the system does not tell. */
export interface OthersActivity {
  readonly othersMean: number;
  /** Of that, what the host of a virtual machine took, as a share of all cores. Absent: not kept. */
  readonly stolenMean?: number;
  readonly othersDiskBytesPerSecond?: number | null;
  /** Without what the run itself read over the network. */
  readonly networkBytesPerSecond?: number | null;
  /** Of the time in which the trial's threads were ready to run, that in which others had their core, 0 to 1. Absent: not kept. */
  readonly lostShare?: number | null;
  /** Of the same, what the system held the trial back, because a share of the cores was set for it. */
  readonly heldShare?: number | null;
  /** Most busy first: mean share of one core, and bytes a second on disks. */
  readonly others?: readonly {
    readonly name: string;
    readonly share: number;
    readonly diskBytesPerSecond: number;
  }[];
}

/** Why a run counts as disturbed, in words; null when it does not. */
export function disturbanceOf(load: OthersActivity | null): string | null {
  if (load === null) return null;
  const {
    othersMean,
    othersDiskBytesPerSecond = null,
    networkBytesPerSecond = null,
    lostShare = null,
    heldShare = null,
    stolenMean = 0,
    others = [],
  } = load;
  const reasons: string[] = [];
  if (othersMean > disturbingLoad)
    reasons.push(
      `other processes took ${percent(othersMean, 0)} of all cores${stolenMean > othersMean / 2 ? ', most by the host of this virtual machine' : mostBy(others, 'share')}`,
    );
  if (heldShare !== null && heldShare > disturbingLoss)
    reasons.push(
      `the system held the trial back for ${percent(heldShare, 0)} of the time in which it was ready to run: a share of the cores is set for it`,
    );
  // A light run waits as long as it runs, beside next to nothing: that changes no result.
  else if (lostShare !== null && lostShare > disturbingLoss && othersMean > disturbingLoad / 2)
    reasons.push(
      `for ${percent(lostShare, 0)} of the time in which the trial was ready to run, others had its cores`,
    );
  if (othersDiskBytesPerSecond !== null && othersDiskBytesPerSecond > disturbingBytesPerSecond)
    reasons.push(
      `others moved ${quantity(othersDiskBytesPerSecond / 1e6, 'MB/s', 0)} on disks${mostBy(others, 'diskBytesPerSecond')}`,
    );
  if (networkBytesPerSecond !== null && networkBytesPerSecond > disturbingBytesPerSecond)
    reasons.push(`${quantity(networkBytesPerSecond / 1e6, 'MB/s', 0)} passed the network`);
  return reasons.length > 0 ? reasons.join('; ') : null;
}

function mostBy(others: NonNullable<OthersActivity['others']>, by: 'share' | 'diskBytesPerSecond'): string {
  const most = others.toSorted((a, b) => b[by] - a[by])[0];
  return most && most[by] > 0 ? `, most by ${most.name}` : '';
}
