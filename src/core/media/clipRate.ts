import type { Rational } from '../time/rational';
import { bytesPerSlot, dataRate } from './dataRate';
import type { Format } from './format';
import type { ClipIdentity } from './identity';
import type { PacketTable } from './packetTable';
import { timingOf } from './timing';

/** What of a clip depends on its rate. */
interface Rated {
  readonly format: Format;
  readonly identity: ClipIdentity;
  readonly timeBase: Rational;
  readonly meanBitsPerSecond: number;
  readonly peakBitsPerSecond: number;
}

/** A clip whose files state no rate, at one that somebody chose. Its times count frames. */
export function atRate(
  { format, identity }: Pick<Rated, 'format' | 'identity'>,
  packets: PacketTable,
  rate: Rational,
): Rated {
  const timeBase = { num: rate.den, den: rate.num };
  return {
    format: { ...format, rate },
    identity: { ...identity, timing: timingOf(packets, timeBase), rateAssumed: false, rateChosen: true },
    timeBase,
    ...dataRate(bytesPerSlot(packets), rate),
  };
}

/** Whether a clip's rate may be chosen: its files state none. */
export const hasFreeRate = (identity: ClipIdentity | null): boolean =>
  identity?.rateAssumed === true || identity?.rateChosen === true;
