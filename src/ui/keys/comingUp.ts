'use client';
import { usePathname, useSearchParams } from 'next/navigation';
import { useLayoutEffect } from 'react';
import { HeldKeys } from './heldKeys';

let runCommand: (key: string) => void = () => undefined;

/** The keys of this window, kept while its page comes up. */
export const heldKeys = new HeldKeys(
  (key) => runCommand(key),
  () => performance.now(),
  (call) => {
    setTimeout(call);
  },
);

const script = 'the page’s script';
const nextPage = 'the next page';
heldKeys.begin(script);

/** Commands are there: keys that were kept go to `run` once the page is whole. */
export function startKeys(run: (key: string) => void): void {
  runCommand = run;
  heldKeys.end(script);
}

/** The router sets out for another address. */
export function leavePage(to: URL): void {
  const { pathname, search } = window.location;
  if (to.pathname !== pathname || to.search !== search) heldKeys.leave(nextPage);
}

/** Notices that the page of an address asked for is there. */
export function useArrival(): void {
  const path = usePathname();
  const search = useSearchParams();
  useLayoutEffect(() => heldKeys.end(nextPage), [path, search]);
}

/** Says that a part of the page with keys of its own is still to come: what it is drawn from is on its way. */
export function useComingUp(comes: boolean): void {
  useLayoutEffect(() => {
    if (!comes) return;
    const part = {};
    heldKeys.begin(part);
    return () => heldKeys.end(part);
  }, [comes]);
}
