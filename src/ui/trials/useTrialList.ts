'use client';
import { useEffect, useRef, useState } from 'react';
import type { ListPart, ListQuery, TrialListPage } from '@/server/trialList';
import { useLive } from '../shell/useLive';

/** What a list is narrowed to, as it stands in an address; empty words are left out. */
export function listAddress(query: ListQuery & { readonly format?: string }): string {
  return new URLSearchParams(Object.entries(query).filter(([, value]) => value)).toString();
}

/**
 * A list of trials, kept fresh, as far as it is narrowed.
 * @param linked whether what narrows it stands in the page's address
 */
export function useTrialList({ fixed, asked: askedFirst, first }: ListPart, linked: boolean) {
  const [asked, setAsked] = useState<ListQuery>(askedFirst);
  const query = { ...fixed, ...Object.fromEntries(Object.entries(asked).filter(([, value]) => value)) };
  const [page, reload] = useLive<TrialListPage>(
    first,
    `/api/trials?${listAddress(query)}`,
    (event) => event.type === 'trial-status',
  );
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
