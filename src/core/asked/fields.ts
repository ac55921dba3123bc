import { number } from '../edge/strict';

/** A figure that cannot be negative, of at most a million millions. @param what at the beginning of a sentence */
export const atLeastZero = (what: string) =>
  number()
    .typeError(`${what} must be a number.`)
    .min(0, `${what} cannot be negative.`)
    .max(1e12, `${what} is too large.`);
