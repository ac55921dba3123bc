/** Memory that the player and its presenter thread share. */
export interface PresenterShared {
  readonly slotCount: number;
  readonly slotUs: number;
  readonly buffer: SharedArrayBuffer;
}

export interface PresenterMessage {
  readonly slot: number;
  readonly shown: boolean;
}

/** Slot number of the first message: the thread runs and waits for t0. */
export const presenterIsUp = -1;

export const presenterState = { waiting: 0, running: 1, stopped: 2 } as const;

export function createPresenterShared(slotCount: number, slotUs: number): PresenterShared {
  const buffer = new SharedArrayBuffer(16 + slotCount * (8 + 8 + 4));
  const shared = { slotCount, slotUs, buffer };
  const { presentedAt, wokeAt } = presenterViews(shared);
  presentedAt.fill(Number.NaN);
  wokeAt.fill(Number.NaN);
  return shared;
}

/** `timing[0]`: t0 on the monotonic clock, µs. `presentedAt`, `wokeAt`: µs from t0. `ready`: 1 when the slot's frame waits. */
export function presenterViews({ buffer, slotCount }: PresenterShared) {
  return {
    control: new Int32Array(buffer, 0, 2),
    timing: new Float64Array(buffer, 8, 1),
    presentedAt: new Float64Array(buffer, 16, slotCount),
    wokeAt: new Float64Array(buffer, 16 + slotCount * 8, slotCount),
    ready: new Int32Array(buffer, 16 + slotCount * 16, slotCount),
  };
}
