'use client';
import { useCallback, useState } from 'react';
import { ApiError, callApi } from './api';

/** Sends to a route and keeps what became of it: whether it is under way, and the refusal with its field. */
export function useSend() {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<ApiError | null>(null);
  const send = useCallback(
    async <Result>(
      path: string,
      method: 'POST' | 'PATCH' | 'DELETE',
      body?: unknown,
    ): Promise<Result | null> => {
      setBusy(true);
      setError(null);
      try {
        return await callApi<Result>(path, method, body);
      } catch (failure) {
        setError(failure instanceof ApiError ? failure : new ApiError(String(failure), null));
        return null;
      } finally {
        setBusy(false);
      }
    },
    [],
  );
  return { busy, error, send };
}
