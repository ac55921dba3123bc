import { summariseRate } from '@/core/decode/result';
import { decodeKind } from './shared/decode';

export const decodeRate = decodeKind<'decode-rate'>(
  ['one', 'all'],
  ({ subject }, { passes, costs, seeks, memoryBytes }) =>
    passes.length === 0
      ? null
      : summariseRate({
          passes,
          costs: costs && { type: Uint8Array.from(costs.type), costUs: Float64Array.from(costs.costUs) },
          seeks,
          memoryBytes,
          format: subject.format,
          meanBitsPerSecond: subject.meanBitsPerSecond,
        }),
);
