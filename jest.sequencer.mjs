import Sequencer from '@jest/test-sequencer';

/** Small files whose tests take long: begun last, they would be all that is left at the end. */
const long = /damaged\w*\.test\.|openapi\.test\.|\/soak\.test\.|prerenders\.test\./;

/** What it writes is still on its way to the disk after it: nothing that measures may follow. */
const lastOf = /throughput\.measured\.test\./;

/** The order of Jest, the longest of all first, so that the workers end together. */
export default class LongestFirst extends Sequencer {
  sort(tests) {
    const sorted = super.sort(tests);
    const rank = ({ path }) => (long.test(path) ? 0 : lastOf.test(path) ? 2 : 1);
    return sorted.toSorted((a, b) => rank(a) - rank(b));
  }
}
