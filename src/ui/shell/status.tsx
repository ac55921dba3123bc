'use client';
import { usePathname } from 'next/navigation';
import { createContext, useCallback, useContext, useEffect, useState, type ReactNode } from 'react';
import type { RenditionProgressNote } from '@/db/schema';
import type { DecodeProgress } from '@/engine/decode/spec';
import type { TimelineTestProgress } from '@/engine/scrub/spec';
import type { LiveCounters } from '@/engine/playback/spec';
import type { StorageProgress } from '@/engine/storage/spec';
import type { Status } from '@/server/rig';
import { callApi } from '../api';
import { useEvents } from './events';

export interface LiveStatus {
  /** Null while the database is away. */
  readonly status: Status | null;
  readonly connected: boolean;
  /** Load by other processes, share of all cores; null before the first report. */
  readonly othersLoad: number | null;
  readonly progress: {
    readonly trialId: string;
    readonly counters: LiveCounters;
    readonly msLeft: number | null;
  } | null;
  readonly storageProgress: { readonly trialId: string; readonly progress: StorageProgress } | null;
  readonly decodeProgress: { readonly trialId: string; readonly progress: DecodeProgress } | null;
  readonly testProgress: { readonly trialId: string; readonly progress: TimelineTestProgress } | null;
  readonly renditionProgress: { readonly jobId: string; readonly progress: RenditionProgressNote } | null;
}

const StatusContext = createContext<LiveStatus>({
  status: null,
  connected: true,
  othersLoad: null,
  progress: null,
  storageProgress: null,
  decodeProgress: null,
  testProgress: null,
  renditionProgress: null,
});

const pollMs = 4_000;

/** Keeps the rig's status: by events, and by asking now and then, so that silence shows. */
export function StatusProvider({ initial, children }: { initial: Status | null; children: ReactNode }) {
  const [status, setStatus] = useState(initial);
  const [connected, setConnected] = useState(true);
  const [othersLoad, setOthersLoad] = useState<number | null>(null);
  const [progress, setProgress] = useState<LiveStatus['progress']>(null);
  const [storageProgress, setStorageProgress] = useState<LiveStatus['storageProgress']>(null);
  const [decodeProgress, setDecodeProgress] = useState<LiveStatus['decodeProgress']>(null);
  const [renditionProgress, setRenditionProgress] = useState<LiveStatus['renditionProgress']>(null);
  const [testProgress, setTestProgress] = useState<LiveStatus['testProgress']>(null);
  const path = usePathname();
  const load = useCallback(() => {
    callApi<Status>('/api/status', 'GET').then(
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
        break;
      case 'trial-progress':
        setProgress(event);
        break;
      case 'storage-progress':
        setStorageProgress(event);
        break;
      case 'decode-progress':
        setDecodeProgress(event);
        break;
      case 'test-progress':
        setTestProgress(event);
        break;
      case 'rendition-progress':
        setRenditionProgress(event);
        break;
      case 'decode-status':
        if (event.status !== 'running') setDecodeProgress(null);
        load();
        break;
      case 'test-status':
        if (event.status !== 'running') setTestProgress(null);
        load();
        break;
      case 'rendition-status':
        if (event.status !== 'running') setRenditionProgress(null);
        load();
        break;
      case 'storage-status':
        if (event.status !== 'running') setStorageProgress(null);
        load();
        break;
      case 'trial-status':
        if (event.status !== 'running') setProgress(null);
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
  return (
    <StatusContext
      value={{
        status,
        connected,
        othersLoad,
        progress,
        storageProgress,
        decodeProgress,
        testProgress,
        renditionProgress,
      }}
    >
      {children}
    </StatusContext>
  );
}

export function useStatus(): LiveStatus {
  return useContext(StatusContext);
}
