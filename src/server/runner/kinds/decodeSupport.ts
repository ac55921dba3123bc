import { summariseSupport } from '@/core/decode/result';
import { decodeKind } from './shared/decode';

export const decodeSupport = decodeKind<'decode-support'>(['one', 'all'], (_, { passes }) =>
  summariseSupport(passes),
);
