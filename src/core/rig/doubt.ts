import { disturbanceOf, type OthersActivity } from './disturbance';
import { unsteadinessOf, type PulseSummary } from './pulse';
import { throttlingOf, type SensorSummary } from './sensors';

/** What a rig did besides a run, and how fast it was itself. */
export interface RigMeanwhile extends OthersActivity {
  /** Null where no pulse was taken. */
  readonly pulse?: PulseSummary | null;
  /** Null where the system tells nothing of them. Absent: not kept. */
  readonly sensors?: SensorSummary | null;
}

/** Why a result is in doubt that is right in itself: others disturbed it, or the machine was not the same all the time. */
export interface Doubt {
  readonly word: 'disturbed' | 'unsteady' | 'disturbed and unsteady';
  readonly reason: string;
}

/** What puts a run in doubt; null where nothing does. */
export function doubtOf(load: RigMeanwhile | null): Doubt | null {
  const disturbance = disturbanceOf(load);
  const unsteadiness =
    [unsteadinessOf(load?.pulse), throttlingOf(load?.sensors)]
      .filter((reason) => reason !== null)
      .join('; ') || null;
  if (disturbance !== null && unsteadiness !== null)
    return { word: 'disturbed and unsteady', reason: `${disturbance}; ${unsteadiness}` };
  if (disturbance !== null) return { word: 'disturbed', reason: disturbance };
  return unsteadiness === null ? null : { word: 'unsteady', reason: unsteadiness };
}
