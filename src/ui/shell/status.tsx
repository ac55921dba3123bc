'use client';
import { usePathname } from 'next/navigation';
import { createContext, useCallback, useContext, useEffect, useState, type ReactNode } from 'react';
import type { LinkNow, LiveProgress } from '@/server/platform/events';
import type { Status } from '@/server/platform/rig';
import { usualCurrency } from '@/core/format';
import { callApi } from '../api';
import { useEvents } from './events';

export interface LiveStatus {
  /** Null while the database is away. */
  readonly status: Status | null;
  readonly connected: boolean;
  /** Load by other processes, share of all cores; null before the first report. */
  readonly othersLoad: number | null;
  /** What passes the network to the running trial's volumes; null where none is reached over one. */
  readonly link: LinkNow | null;
  /** The last that the running trial told; null before. */
  readonly live: { readonly trialId: string; readonly progress: LiveProgress } | null;
}

const StatusContext = createContext<LiveStatus>({
  status: null,
  connected: true,
  othersLoad: null,
  link: null,
  live: null,
});

const pollMs = 4_000;

/** Keeps the rig's status: by events, and by asking now and then, so that silence shows. */
export function StatusProvider({ initial, children }: { initial: Status | null; children: ReactNode }) {
  const [status, setStatus] = useState(initial);
  const [connected, setConnected] = useState(true);
  const [othersLoad, setOthersLoad] = useState<number | null>(null);
  const [link, setLink] = useState<LinkNow | null>(null);
  const [live, setLive] = useState<LiveStatus['live']>(null);
  const path = usePathname();
  const load = useCallback(() => {
    callApi('GET /api/status').then(
      (next) => {
        setStatus(next);
        setConnected(true);
      },
      () => setStatus(null),
    );
  }, []);
  useEffect(load, [load, path]);
  useEffect(() => {
    const timer = setInterval(load, pollMs);
    return () => clearInterval(timer);
  }, [load]);
  useEvents((event) => {
    switch (event.type) {
      case 'connection':
        setConnected(event.connected);
        if (event.connected) load();
        break;
      case 'load':
        setOthersLoad(event.othersLoad);
        setLink(event.link ?? null);
        break;
      case 'trial-progress':
        setLive(event);
        break;
      case 'trial-status':
        if (event.status !== 'running') setLink(null);
        if (event.status !== 'running') setLive((now) => (now?.trialId === event.trialId ? null : now));
        load();
        break;
      case 'volume':
        if (event.finished) load();
        break;
      case 'clips':
        load();
        break;
    }
  });
  return <StatusContext value={{ status, connected, othersLoad, link, live }}>{children}</StatusContext>;
}

/** What money is counted in here (ISO 4217). */
export function useCurrency(): string {
  return useContext(StatusContext).status?.currency ?? usualCurrency;
}

export function useStatus(): LiveStatus {
  return useContext(StatusContext);
}

/** The last that a trial told while it runs; null before. @param Progress what its kind tells */
export function useProgress<Progress extends LiveProgress>(trialId: string): Progress | null {
  const { live } = useStatus();
  return live?.trialId === trialId ? (live.progress as Progress) : null;
}
