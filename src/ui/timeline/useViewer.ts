'use client';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Timeline } from '@/core/timeline/model';
import type { PlaybackScale } from '@/engine/playback/spec';
import type { ViewerCommand, ViewerState } from '@/engine/timeline/viewerSpec';
import { callApi } from '../api';

/** Splits the viewer's stream into records: [bytes of state][bytes of picture][state as JSON][JPEG]. */
export class ViewerParser {
  private pending = new Uint8Array(0);

  /** Takes bytes; returns the records that are whole now. */
  push(bytes: Uint8Array): { state: ViewerState; jpeg: Uint8Array<ArrayBuffer> | null }[] {
    const joined = new Uint8Array(this.pending.length + bytes.length);
    joined.set(this.pending);
    joined.set(bytes, this.pending.length);
    const records: { state: ViewerState; jpeg: Uint8Array<ArrayBuffer> | null }[] = [];
    let at = 0;
    while (joined.length - at >= 8) {
      const head = new DataView(joined.buffer, at, 8);
      const [json, jpeg] = [head.getUint32(0, true), head.getUint32(4, true)];
      if (joined.length - at - 8 < json + jpeg) break;
      const picture = at + 8 + json;
      records.push({ state: JSON.parse(new TextDecoder().decode(joined.subarray(at + 8, picture))) as ViewerState, jpeg: jpeg > 0 ? joined.slice(picture, picture + jpeg) : null });
      at = picture + jpeg;
    }
    this.pending = joined.slice(at);
    return records;
  }
}

const reconnectMs = 1_500;
const documentAfterMs = 60;

export interface ViewerPicture { readonly url: string; readonly slot: number }

/** The viewer of a page: shows slots of a document as it is edited, and plays. */
export function useViewer(document: Timeline, read: 'originals' | 'proxies', scale: PlaybackScale) {
  const [id] = useState(() => `v-${Math.random().toString(36).slice(2, 12)}`);
  const [state, setState] = useState<ViewerState | null>(null);
  const [picture, setPicture] = useState<ViewerPicture | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const onPicture = useRef<((slot: number) => void) | null>(null);
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
        return { url, slot: record.state.slot };
      });
      onPicture.current?.(record.state.slot);
    });
    return () => control.abort();
  }, [id]);

  useEffect(() => {
    const timer = setTimeout(() => queue('document', { type: 'document', document, read, scale }), documentAfterMs);
    return () => clearTimeout(timer);
  }, [document, read, scale, queue]);
  useEffect(() => queue('scale', { type: 'scale', scale }), [scale, queue]);
  const command = useCallback((next: ViewerCommand) => queue('command', next), [queue]);
  return { state, picture, problem: problem ?? state?.problem ?? null, command };
}

/** Sends one request of a kind at a time; of those that wait only the newest is sent. */
function useSender(id: string, onProblem: (problem: string | null) => void) {
  const waiting = useRef(new Map<string, object>());
  const busy = useRef(false);
  return useCallback((kind: string, body: object) => {
    waiting.current.delete(kind);
    waiting.current.set(kind, body);
    if (busy.current) return;
    busy.current = true;
    void (async () => {
      for (;;) {
        const [next] = waiting.current;
        if (!next) break;
        waiting.current.delete(next[0]);
        await callApi(`/api/viewers/${id}`, 'POST', next[1]).then(() => onProblem(null), (failure: unknown) => onProblem(failure instanceof Error ? failure.message : String(failure)));
      }
      busy.current = false;
    })();
  }, [id, onProblem]);
}

/** Reads the viewer's stream, and opens it again when it ends, until aborted. */
async function follow(id: string, signal: AbortSignal, onRecord: (record: { state: ViewerState; jpeg: Uint8Array<ArrayBuffer> | null }) => void): Promise<void> {
  while (!signal.aborted) {
    try {
      const response = await fetch(`/api/viewers/${id}`, { signal });
      const reader = response.ok ? response.body?.getReader() : undefined;
      const parser = new ViewerParser();
      for (let part = await reader?.read(); part && !part.done; part = await reader?.read()) for (const record of parser.push(part.value)) onRecord(record);
    } catch {
      if (signal.aborted) return;
    }
    await new Promise((resolve) => { setTimeout(resolve, reconnectMs); });
  }
}
