'use client';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { NavvyEvent } from '@/server/platform/events';
import type { RouteName } from '@/core/asked/routes';
import { addressOf, readAt, type Addressed, type Answer, type Optionally } from '../api';
import { useEvents } from './events';

/**
 * Data that a page was made with, kept fresh: fetched again when an event
 * concerns it and when the connection comes back. A fetch that fails leaves
 * what is shown; the condition strip tells.
 */
export function useLive<Name extends RouteName & `GET ${string}`>(
  initial: Answer<Name>,
  name: Name,
  concerns: (event: NavvyEvent) => boolean,
  ...along: Optionally<Addressed<Name>>
): [Answer<Name>, () => Promise<void>] {
  const address = addressOf(name, ...along);
  const [data, setData] = useState(initial);
  const newest = useRef(0);
  const reload = useCallback(async () => {
    const turn = ++newest.current;
    const next = (await readAt(address).catch(() => null)) as Answer<Name> | null;
    if (next !== null && turn === newest.current) setData(next);
  }, [address]);
  const first = useRef(true);
  useEffect(() => {
    if (first.current) first.current = false;
    else setData(initial);
  }, [initial]);
  useEvents((event) => {
    if (event.type === 'connection' ? event.connected : concerns(event)) void reload();
  });
  return [data, reload];
}
