/**
 * Load by other processes above which a measurement is called disturbed, as a
 * share of all cores. Our own choice: on four cores it is more than half of one.
 */
export const disturbingLoad = 0.15;

/** True when other processes' mean load over a run was high enough to change its result. */
export function isDisturbed(load: { readonly othersMean: number } | null): boolean {
  return load !== null && load.othersMean > disturbingLoad;
}
