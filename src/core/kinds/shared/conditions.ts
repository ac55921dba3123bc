import type { RigIdentity, RigState } from '../../rig/identity';

/** Under what a trial of any kind began; saved before it measures. */
export interface RigConditions {
  readonly rig: RigIdentity;
  readonly rigState: RigState;
  readonly softwareVersion: string;
}
