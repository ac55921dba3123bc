import { playedKind } from './shared/played';

export const playback = playedKind<'playback'>();
