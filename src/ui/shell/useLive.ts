'use client';
import { useCallback, useEffect, useEffectEvent, useRef, useState } from 'react';
import type { NavvyEvent } from '@/server/platform/events';
import type { RouteName } from '@/core/asked/routes';
import { addressOf, readAt, type Addressed, type Answer, type Optionally } from '../api';
import { useEvents } from './events';

/**
 * Data that a page was made with, kept fresh: fetched again when an event
 * concerns it and when the connection comes back. A fetch that fails leaves
 * what is shown; the condition strip tells.
 * @returns the data, what fetches it anew, and whether it answers what is asked now: while something else is fetched it does not
 */
export function useLive<Name extends RouteName & `GET ${string}`>(
  initial: Answer<Name>,
  name: Name,
  concerns: (event: NavvyEvent) => boolean,
  ...along: Optionally<Addressed<Name>>
): [data: Answer<Name>, reload: () => Promise<void>, isAnswer: boolean] {
  const address = addressOf(name, ...along);
  const [held, setHeld] = useState({ data: initial, address });
  const newest = useRef(0);
  const reload = useCallback(async () => {
    const turn = ++newest.current;
    const next = (await readAt(address).catch(() => null)) as Answer<Name> | null;
    if (next !== null && turn === newest.current) setHeld({ data: next, address });
  }, [address]);
  const takeInitial = useEffectEvent(() => setHeld({ data: initial, address }));
  const first = useRef(true);
  useEffect(() => {
    if (first.current) first.current = false;
    else takeInitial();
  }, [initial]);
  useEvents((event) => {
    if (event.type === 'connection' ? event.connected : concerns(event)) void reload();
  });
  return [held.data, reload, held.address === address];
}
