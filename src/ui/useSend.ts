'use client';
import { useCallback, useState } from 'react';
import type { RouteName } from '@/core/asked/routes';
import { apiErrorOf, callApi, type ApiError, type Along, type Answer, type Optionally } from './api';

/** Sends to a route and keeps what became of it: whether it is under way, and the refusal with its field. */
export function useSend() {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<ApiError | null>(null);
  const send = useCallback(
    async <Name extends RouteName>(
      name: Name,
      ...along: Optionally<Along<Name>>
    ): Promise<Answer<Name> | null> => {
      setBusy(true);
      setError(null);
      try {
        return await callApi(name, ...along);
      } catch (failure) {
        setError(apiErrorOf(failure));
        return null;
      } finally {
        setBusy(false);
      }
    },
    [],
  );
  return { busy, error, send };
}
