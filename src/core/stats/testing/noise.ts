/** A draw from the standard normal distribution (Box and Muller 1958). @param random draws from 0 to 1 */
export function normal(random: () => number): number {
  return Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
}
