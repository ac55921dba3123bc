import Sequencer from '@jest/test-sequencer';

/** Small files whose tests take long: begun last, they would be all that is left at the end. */
const long = /damaged\w*\.test\.|openapi\.test\.|\/soak\.test\.|prerenders\.test\./;

/** The order of Jest, the longest of all first, so that the workers end together. */
export default class LongestFirst extends Sequencer {
  sort(tests) {
    const sorted = super.sort(tests);
    const isLong = ({ path }) => long.test(path);
    return [...sorted.filter(isLong), ...sorted.filter((test) => !isLong(test))];
  }
}
