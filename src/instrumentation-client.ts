import { endEarlyFields } from '@/ui/shell/earlyInput';
import { leavePage } from '@/ui/shell/comingUp';

endEarlyFields();

/** Called by the router when it sets out for an address. */
export function onRouterTransitionStart(url: string): void {
  leavePage(new URL(url, window.location.href));
}
