import type { KindView } from './kind';
import { playedView } from './shared/played';

export const playback = playedView as unknown as KindView<'playback'>;
