'use client';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { NavvyEvent } from '@/server/events';
import { callApi } from '../api';
import { useEvents } from './events';

/**
 * Data that a page was made with, kept fresh: fetched again when an event
 * concerns it and when the connection comes back. A fetch that fails leaves
 * what is shown; the condition strip tells.
 */
export function useLive<Data>(
  initial: Data,
  path: string,
  concerns: (event: NavvyEvent) => boolean,
): [Data, () => Promise<void>] {
  const [data, setData] = useState(initial);
  const newest = useRef(0);
  const reload = useCallback(async () => {
    const turn = ++newest.current;
    const next = await callApi<Data>(path, 'GET').catch(() => null);
    if (next !== null && turn === newest.current) setData(next);
  }, [path]);
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
