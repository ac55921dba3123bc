'use client';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { SentTo } from '@/core/asked/routes';
import { JumpWatch, mostJumps, type Jump } from '@/core/timeline/jumps';
import type { Timeline } from '@/core/timeline/model';
import type { PlaybackScale } from '@/engine/playback/spec';
import type { ViewerCommand, ViewerState } from '@/engine/timeline/viewerSpec';
import { addressOf, callApi } from '../api';
import { StreamRecords } from '../streamRecords';

/** Splits the viewer's stream into records: [bytes of state][bytes of picture][state as JSON][JPEG]. */
export class ViewerParser extends StreamRecords<{
  state: ViewerState;
  jpeg: Uint8Array<ArrayBuffer> | null;
}> {
  constructor() {
    super(
      (json, jpeg) => json + jpeg,
      (json, jpeg, body) => ({
        state: JSON.parse(new TextDecoder().decode(body.subarray(0, json))) as ViewerState,
        jpeg: jpeg > 0 ? body.slice(json) : null,
      }),
    );
  }
}

const reconnectMs = 1_500;
const documentAfterMs = 60;

export interface ViewerPicture {
  readonly url: string;
  readonly slot: number;
  /** The state that it came with. */
  readonly state: ViewerState;
}

/** How a viewer looks at its document. */
export interface ViewerLook {
  readonly scale: PlaybackScale;
  readonly read: 'originals' | 'proxies';
  /** Read from the volume at every jump, not from the system's cache. */
  readonly cold: boolean;
}

type PageCommand =
  | Exclude<ViewerCommand, { type: 'show' }>
  | Omit<Extract<ViewerCommand, { type: 'show' }>, 'jump'>;

/** The jumps of a page's viewer under the conditions of its look; others begin anew. */
function useJumps({ scale, read, cold }: ViewerLook) {
  const [jumps, setJumps] = useState<readonly Jump[]>([]);
  const [watch] = useState(() => new JumpWatch());
  useEffect(() => {
    watch.clear();
    setJumps([]);
  }, [watch, scale, read, cold]);
  const shown = useCallback(
    ({ slot, state: { jump, tookMs, emptiedMs, frames } }: ViewerPicture) => {
      const sinceMs = watch.shown(jump, performance.now());
      if (sinceMs === null || !tookMs) return;
      const done: Jump = {
        slot,
        latencyMs: Math.max(0, sinceMs - emptiedMs),
        readMs: tookMs.read,
        decodeMs: tookMs.decode,
        processMs: tookMs.process,
        kept: frames.length > 0 && frames.every(({ from }) => from === 'kept'),
      };
      setJumps((before) => [...before, done].slice(-mostJumps));
    },
    [watch],
  );
  return { jumps, watch, shown };
}

/** The viewer of a page: shows slots of a document as it is edited, and plays. */
export function useViewer(document: Timeline, look: ViewerLook) {
  const { scale, read, cold } = look;
  const [id] = useState(() => `v-${Math.random().toString(36).slice(2, 12)}`);
  const [state, setState] = useState<ViewerState | null>(null);
  const [picture, setPicture] = useState<ViewerPicture | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const { jumps, watch, shown } = useJumps(look);
  const queue = useSender(id, setProblem);

  useEffect(() => {
    const control = new AbortController();
    void follow(id, control.signal, (record) => {
      setState(record.state);
      if (!record.jpeg) return;
      const url = URL.createObjectURL(new Blob([record.jpeg], { type: 'image/jpeg' }));
      setPicture((before) => {
        // The picture before is freed when the browser has had time to draw the new one.
        if (before) setTimeout(() => URL.revokeObjectURL(before.url), 1_000);
        return { url, slot: record.state.slot, state: record.state };
      });
    });
    return () => control.abort();
  }, [id]);

  useEffect(() => {
    const timer = setTimeout(
      () => queue('document', { type: 'document', document, read, scale, cold }),
      documentAfterMs,
    );
    return () => clearTimeout(timer);
  }, [document, read, scale, cold, queue]);
  useEffect(() => queue('scale', { type: 'scale', scale }), [scale, queue]);
  const command = useCallback(
    (next: PageCommand) =>
      queue('command', next.type === 'show' ? { ...next, jump: watch.begin(performance.now()) } : next),
    [queue, watch],
  );
  return {
    state,
    picture,
    problem: problem ?? state?.problem ?? null,
    command,
    jumps,
    /** Jumps that another overtook. */ overtaken: watch.overtaken,
    /** To be told when a picture is on the page. */ shown,
  };
}

type Sent = SentTo<'POST /api/viewers/{id}'>;

/** Sends one request of a kind at a time; of those that wait only the newest is sent. */
function useSender(id: string, onProblem: (problem: string | null) => void) {
  const waiting = useRef(new Map<string, Sent>());
  const busy = useRef(false);
  return useCallback(
    (kind: string, body: Sent) => {
      waiting.current.delete(kind);
      waiting.current.set(kind, body);
      if (busy.current) return;
      busy.current = true;
      void (async () => {
        for (;;) {
          const [next] = waiting.current;
          if (!next) break;
          waiting.current.delete(next[0]);
          await callApi('POST /api/viewers/{id}', { ids: { id }, body: next[1] }).then(
            () => onProblem(null),
            (failure: unknown) => onProblem(failure instanceof Error ? failure.message : String(failure)),
          );
        }
        busy.current = false;
      })();
    },
    [id, onProblem],
  );
}

/** Reads the viewer's stream, and opens it again when it ends, until aborted. */
async function follow(
  id: string,
  signal: AbortSignal,
  onRecord: (record: { state: ViewerState; jpeg: Uint8Array<ArrayBuffer> | null }) => void,
): Promise<void> {
  while (!signal.aborted) {
    try {
      const response = await fetch(addressOf('GET /api/viewers/{id}', { ids: { id } }), { signal });
      const reader = response.ok ? response.body?.getReader() : undefined;
      const parser = new ViewerParser();
      for (let part = await reader?.read(); part && !part.done; part = await reader?.read())
        for (const record of parser.push(part.value)) onRecord(record);
    } catch {
      if (signal.aborted) return;
    }
    await new Promise((resolve) => {
      setTimeout(resolve, reconnectMs);
    });
  }
}
