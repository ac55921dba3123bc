import type { KindView } from './kind';
import { playedView } from './shared/played';

export const selfCheck = playedView as unknown as KindView<'self-check'>;
