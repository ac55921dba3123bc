import { endEarlyDeeds } from '@/ui/keys/earlyInput';
import { leavePage } from '@/ui/keys/comingUp';

endEarlyDeeds();

/** Called by the router when it sets out for an address. */
export function onRouterTransitionStart(url: string): void {
  leavePage(new URL(url, window.location.href));
}
