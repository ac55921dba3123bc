/** A stage held back on purpose: `stage` of `slot` ends only when `slots` slots from it have passed. */
export interface InjectedFault {
  readonly stage: 'read' | 'decode' | 'process';
  readonly slot: number;
  readonly slots: number;
}
