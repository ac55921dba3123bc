'use client';
import { useEffect, useRef, useState } from 'react';
import type { ListPart, ListQuery } from '@/server/trialList';
import { useLive } from '../shell/useLive';

/** What a list is narrowed to, as it stands in an address; empty words are left out. */
function listAddress(query: ListQuery): string {
  return new URLSearchParams(narrowedBy(query)).toString();
}

/** What really narrows a list. */
export const narrowedBy = (query: ListQuery): Record<string, string> =>
  Object.fromEntries(Object.entries(query).filter(([, value]) => value));

/**
 * A list of trials, kept fresh, as far as it is narrowed.
 * @param linked whether what narrows it stands in the page's address
 */
export function useTrialList({ fixed, asked: askedFirst, first }: ListPart, linked: boolean) {
  const [asked, setAsked] = useState<ListQuery>(askedFirst);
  const query: ListQuery = { ...fixed, ...narrowedBy(asked) };
  const [page, reload] = useLive(first, 'GET /api/trials', (event) => event.type === 'trial-status', {
    query: narrowedBy(query),
  });
  const begun = useRef(false);
  useEffect(() => {
    if (begun.current) void reload();
    begun.current = true;
  }, [reload]);
  const ask = (next: ListQuery) => {
    setAsked(next);
    if (linked) {
      const address = listAddress(next);
      window.history.replaceState(null, '', address === '' ? window.location.pathname : `?${address}`);
    }
  };
  return {
    page,
    asked,
    query,
    /** Narrows it otherwise, from its first page on. */
    narrow: (change: ListQuery) => ask({ ...asked, ...change, page: '' }),
    clear: () => ask({}),
    turnTo: (number: number) => ask({ ...asked, page: String(number) }),
  };
}
