'use client';
import { createContext, useContext, useEffect, useMemo, useRef, type ReactNode } from 'react';
import type { NavvyEvent } from '@/server/platform/events';
import { addressOf } from '../api';

export type ConnectionEvent = { readonly type: 'connection'; readonly connected: boolean };
type Listener = (event: NavvyEvent | ConnectionEvent) => void;
const EventsContext = createContext<((listener: Listener) => () => void) | null>(null);

/**
 * One event stream per page, shared by all that listen. The browser connects again by itself.
 * Who joins while the stream is open hears so at once, as after a break: what happened between
 * the making of its data and its joining was told to nobody.
 */
export function EventsProvider({ children }: { children: ReactNode }) {
  const listeners = useRef(new Set<Listener>());
  const open = useRef(false);
  useEffect(() => {
    const source = new EventSource(addressOf('GET /api/events'));
    const tell = (event: NavvyEvent | ConnectionEvent) => {
      for (const listener of listeners.current) listener(event);
    };
    source.onmessage = ({ data }) => tell(JSON.parse(data as string) as NavvyEvent);
    const tellConnection = (connected: boolean) => {
      open.current = connected;
      tell({ type: 'connection', connected });
    };
    source.onopen = () => tellConnection(true);
    source.onerror = () => tellConnection(false);
    return () => {
      open.current = false;
      source.close();
    };
  }, []);
  const subscribe = useMemo(
    () => (listener: Listener) => {
      listeners.current.add(listener);
      if (open.current) listener({ type: 'connection', connected: true });
      return () => {
        listeners.current.delete(listener);
      };
    },
    [],
  );
  return <EventsContext value={subscribe}>{children}</EventsContext>;
}

/** Calls the newest `listener` for every event while the component is shown. */
export function useEvents(listener: Listener): void {
  const subscribe = useContext(EventsContext);
  const newest = useRef(listener);
  useEffect(() => {
    newest.current = listener;
  });
  useEffect(() => subscribe?.((event) => newest.current(event)), [subscribe]);
}
