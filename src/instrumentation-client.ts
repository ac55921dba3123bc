import { endEarlyFields } from '@/ui/keys/earlyInput';
import { leavePage } from '@/ui/keys/comingUp';

endEarlyFields();

/** Called by the router when it sets out for an address. */
export function onRouterTransitionStart(url: string): void {
  leavePage(new URL(url, window.location.href));
}
