'use client';
import { useEffect, useRef, useState } from 'react';
import type { RouteName } from '@/core/asked/routes';
import type { NavvyEvent } from '@/server/platform/events';
import type { Addressed, Answer, Optionally } from '../api';
import { useLive } from '../shell/useLive';

/** What narrows and orders a list, as it stands in an address. */
type Words = Readonly<Record<string, string | undefined>>;

/** What really narrows a list: empty words are left out. */
export const narrowedBy = (query: Words): Record<string, string> =>
  Object.fromEntries(Object.entries(query).filter((entry): entry is [string, string] => Boolean(entry[1])));

interface Narrowed<Name extends RouteName & `GET ${string}`, Query extends Words> {
  readonly route: Name;
  /** Its answer to what is asked at first. */
  readonly first: Answer<Name>;
  readonly asked: Query;
  /** What it is always narrowed to besides. */
  readonly fixed?: Query;
  /** Whether what narrows it stands in the page's address. */
  readonly linked: boolean;
  readonly concerns: (event: NavvyEvent) => boolean;
}

/** A list that the server narrows, orders and turns over, kept fresh. */
export function useNarrowed<
  Name extends RouteName & `GET ${string}`,
  Query extends Words & { page?: string },
>({ route, first, asked: askedFirst, fixed, linked, concerns }: Narrowed<Name, Query>) {
  const [asked, setAsked] = useState(askedFirst);
  const query = { ...fixed, ...narrowedBy(asked) };
  const along = [{ query: narrowedBy(query) }] as unknown as Optionally<Addressed<Name>>;
  const [page, reload, isAnswer] = useLive(first, route, concerns, ...along);
  const begun = useRef(false);
  useEffect(() => {
    if (begun.current) void reload();
    begun.current = true;
  }, [reload]);
  const ask = (next: Query) => {
    setAsked(next);
    if (!linked) return;
    const address = new URLSearchParams(narrowedBy(next)).toString();
    window.history.replaceState(null, '', address === '' ? window.location.pathname : `?${address}`);
  };
  return {
    page,
    /** Whether the page answers what is asked; until then it answers what was asked before. */
    isAnswer,
    asked,
    query,
    reload,
    /** Narrows it otherwise, from its first page on. */
    narrow: (change: Partial<Query>) => ask({ ...asked, ...change, page: '' }),
    clear: () => ask({} as Query),
    turnTo: (number: number) => ask({ ...asked, page: String(number) }),
  };
}
